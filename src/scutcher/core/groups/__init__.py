"""Classes of samples: how far they lie apart, and where."""
