"""The Treat page: before, after, and what the chosen step did."""
