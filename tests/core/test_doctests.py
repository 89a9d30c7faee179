"""Every worked example in the core's docstrings."""

import doctest
import unittest
from importlib import import_module
from pkgutil import walk_packages

import brunt_core


def load_tests(loader, tests, pattern):
    for info in walk_packages(brunt_core.__path__, "brunt_core."):
        tests.addTests(doctest.DocTestSuite(import_module(info.name)))
    return tests


class Examples(unittest.TestCase):
    def test_public_functions_have_one(self):
        import inspect
        bare = []
        for info in walk_packages(brunt_core.__path__, "brunt_core."):
            module = import_module(info.name)
            for name, thing in vars(module).items():
                if inspect.isfunction(thing) and thing.__module__ == module.__name__ and not name.startswith("_"):
                    if not (inspect.getdoc(thing) or "").strip():
                        bare.append(f"{module.__name__}.{name}")
        self.assertEqual(bare, [])
