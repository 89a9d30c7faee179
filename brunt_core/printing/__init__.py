"""Recipes, G-code and plates."""
