"""Looks at the scores from outside: pairs, space, pictures, rebuilt samples, loadings as points."""
