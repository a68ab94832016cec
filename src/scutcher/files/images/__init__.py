"""Images of spectra in files: opened without reading them whole, maps written back."""
