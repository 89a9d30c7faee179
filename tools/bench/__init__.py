"""Measures speed and growth against something measured in the same run."""
