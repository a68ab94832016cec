"""What each page finds, in one sentence; never more than the evidence."""
