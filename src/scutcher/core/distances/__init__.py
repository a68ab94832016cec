"""Distances to a model: T², Q, joint distance, their limits, contributions, outliers."""
