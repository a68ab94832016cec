"""The Rank page: how many components, and the evidence for it."""
