"""The window and what is around its pages: start, top and bottom bar, finder, message, looks."""
