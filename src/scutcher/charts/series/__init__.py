"""What the charts of a series show."""
