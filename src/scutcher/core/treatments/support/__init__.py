"""What several treatments share."""
