"""A recipe applied to a table: its steps, its model, its checks, kept for reuse."""
