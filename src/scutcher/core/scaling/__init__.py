"""Centring and scaling of the variables, and the matrix that a model sees."""
