"""Files of named arrays: HDF5, NetCDF, MATLAB and NumPy archives, and which of their arrays is the table."""
