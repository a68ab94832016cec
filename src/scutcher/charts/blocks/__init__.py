"""What the charts of several tables show."""
