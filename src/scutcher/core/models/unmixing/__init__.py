"""Spectra as mixtures of shapes."""
