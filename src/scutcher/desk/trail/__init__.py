"""The trail and the shelf: the road from the data to the model, and the models put by."""
