"""Kinds of model, one folder each; and what is done about missing values before any."""
