"""Check standards: a reference material under one procedure that runs through all campaigns."""
