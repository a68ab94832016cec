"""Several tables on the same samples: what they say together, what some say, what one says alone."""
