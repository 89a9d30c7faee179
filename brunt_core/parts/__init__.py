"""A custom part: read from a mesh file, laid, drawn from three sides, cut at a section."""
