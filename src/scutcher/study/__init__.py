"""The document: its state, commands, undo, the evaluator and what everybody is looking at. No Qt."""
