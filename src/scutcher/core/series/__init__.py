"""Spectra in an order: structure along it, pairs that differ as a reference does, when changes begin."""
