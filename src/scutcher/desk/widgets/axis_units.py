"""What an ordered axis may be: quantity and unit."""

AXES = (
    ("wavelength", "nm"),
    ("wavenumber", "cm⁻¹"),
    ("shift", "cm⁻¹"),
    ("time", "min"),
    ("m/z", ""),
    ("channel", ""),
)
