"""Recipes: treatments in order with all settings, and the chain that they make."""
