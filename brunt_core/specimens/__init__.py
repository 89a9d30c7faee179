"""Specimen geometries: their dimensions and outlines, in millimetres (drawings and meshes are)."""
