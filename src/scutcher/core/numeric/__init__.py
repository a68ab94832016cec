"""Linear algebra and other numerics that know nothing of samples or spectra."""
