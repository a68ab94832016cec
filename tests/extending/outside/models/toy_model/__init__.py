"""A model that is the mean."""
