"""The tests. Property tests have no deadline of their own: a loaded machine is no fault of the code."""

from hypothesis import settings

settings.register_profile("house", deadline=None)
settings.load_profile("house")
