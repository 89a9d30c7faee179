"""Reading a workshop from notebooks and other programs: JSON over HTTP with a personal token."""
