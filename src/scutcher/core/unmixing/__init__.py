"""Amounts of shapes in each spectrum, and shapes without references."""
