"""A campaign as a report that others can read and check."""
