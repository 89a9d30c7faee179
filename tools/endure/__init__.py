"""Many users at mixed work on a real server, with what troubles it."""
