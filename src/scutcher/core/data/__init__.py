"""Tables: samples by variables with all that is known about both."""
