"""The import view: the file as found, and what each column of it is."""
