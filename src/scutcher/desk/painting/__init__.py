"""The live painter; these files alone know the plotting library, and a plot here never computes."""
