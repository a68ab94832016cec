"""A treatment, a page and a kind of model from a folder outside the package."""
