"""Scutcher: treat, model and inspect stacked spectra and instrument signals."""

__version__ = "0.1.0"
