"""Templates without their indentation: it is for who writes them, not for who reads the page."""

import re

from django.template import Origin
from django.template.loaders import app_directories

_INDENT = re.compile(r"\n[ \t]+")


class Loader(app_directories.Loader):
    """The templates of the apps; lines keep their numbers, and lose what they begin with."""

    def get_contents(self, origin: Origin) -> str:
        """The text of a template."""
        return _INDENT.sub("\n", super().get_contents(origin))
