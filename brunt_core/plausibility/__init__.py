"""What is plausible, and what a number that is not looks like. It asks; it never changes."""
