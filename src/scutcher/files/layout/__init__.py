"""How the cells of a text or a sheet are laid out: found by looking, or as somebody says."""
