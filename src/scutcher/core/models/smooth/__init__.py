"""Components of pixels in the order of their smoothness, as a kind of model."""
