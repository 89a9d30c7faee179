"""Every worked example in the core's docstrings, and that public functions have their contract."""

import doctest
import inspect
import unittest
from importlib import import_module
from pkgutil import walk_packages

import brunt_core

MODULES = [import_module(i.name) for i in walk_packages(brunt_core.__path__, "brunt_core.")]


class Examples(unittest.TestCase):
    def test_every_example_gives_what_it_says(self):
        tried = 0
        for module in MODULES:
            with self.subTest(module.__name__):
                result = doctest.testmod(module, report=False)
                self.assertEqual(result.failed, 0)
                tried += result.attempted
        self.assertGreater(tried, 50)

    def test_public_functions_say_what_they_do(self):
        bare = [
            f"{m.__name__}.{n}"
            for m in MODULES
            for n, f in vars(m).items()
            if inspect.isfunction(f)
            and f.__module__ == m.__name__
            and not n.startswith("_")
            and not inspect.getdoc(f)
        ]
        self.assertEqual(bare, [])
