"""Load–displacement curves: read, compensated for the toe, and reduced to numbers."""
