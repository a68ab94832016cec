"""The pages: places to look, each made of panels over the same study."""
