"""Images of spectra, and tall tables: passes over pixels that need not fit memory."""
