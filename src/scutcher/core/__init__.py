"""The numbers: tables, treatments, component models, limits; pure functions and frozen results."""
