"""Reading and writing open formats; every reader gives a Table or an error that a person can act on."""
