"""Scutcher for notebooks and scripts: `import scutcher` brings what is here."""
