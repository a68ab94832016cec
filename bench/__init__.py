"""Measured comparisons, printed as ratios to something measured in the same run."""
