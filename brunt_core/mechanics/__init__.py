"""Closed-form mechanics shared by methods and drawings."""
