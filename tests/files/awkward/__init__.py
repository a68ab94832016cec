"""Awkward files of our own making, each with the table that a person would expect."""
