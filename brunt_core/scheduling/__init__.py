"""Days and weeks: what runs when, on what, and why."""
