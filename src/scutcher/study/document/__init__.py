"""The document: a frozen state, the commands that change it, and the way back."""
