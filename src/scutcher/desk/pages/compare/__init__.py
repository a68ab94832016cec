"""Compare: any two models of the study side by side, the second turned onto the first."""
