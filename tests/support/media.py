"""Uploaded files of a test go into a folder of its own."""

from tempfile import TemporaryDirectory

from django.test import override_settings


def own_media(test) -> str:
    """The folder; it is gone when the test is over."""
    folder = TemporaryDirectory()
    test.addCleanup(folder.cleanup)
    settings = override_settings(MEDIA_ROOT=folder.name)
    settings.enable()
    test.addCleanup(settings.disable)
    return folder.name
