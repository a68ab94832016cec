"""Try several: recipes run behind, and compared."""
