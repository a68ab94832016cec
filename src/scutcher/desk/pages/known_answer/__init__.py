"""Is it right? The practice set, whose answer is known."""
