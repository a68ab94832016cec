"""Principal component models: `Z = T Pᵀ + E`."""
