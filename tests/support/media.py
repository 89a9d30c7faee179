"""Uploaded files of a test go into a folder of its own."""

from tempfile import TemporaryDirectory

from django.test import override_settings


def own_media(test) -> str:
    """The folder; it is gone when the test, or the class of tests, is over."""
    after = test.addClassCleanup if isinstance(test, type) else test.addCleanup
    folder = TemporaryDirectory()
    after(folder.cleanup)
    settings = override_settings(MEDIA_ROOT=folder.name)
    settings.enable()
    after(settings.disable)
    return folder.name
