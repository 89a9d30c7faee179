"""Simulates whether what Brunt claims holds."""
