"""What a person does that is more than one click: it asks what must be asked, then runs a command."""
