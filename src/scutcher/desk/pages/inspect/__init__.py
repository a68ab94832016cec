"""The Inspect page: scores, loadings, residuals and distances together."""
