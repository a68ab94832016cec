"""The study file: one SQLite file with every state the study was in; arrays are stored once, by content."""
