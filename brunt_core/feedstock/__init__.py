"""Unknown feedstock: particles, extrusion, gates."""
