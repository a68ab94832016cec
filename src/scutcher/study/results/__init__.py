"""Results as files: what `scutcher fit` and `scutcher apply` leave in a folder."""
