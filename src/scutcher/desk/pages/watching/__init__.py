"""A folder that an instrument writes into, watched from the window."""
