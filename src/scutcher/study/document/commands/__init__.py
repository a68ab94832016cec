"""Commands: every way in which a study can change."""
