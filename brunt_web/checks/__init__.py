"""Check bars: a reference material under one procedure that runs through all campaigns."""
