"""What is shown of two models side by side."""
