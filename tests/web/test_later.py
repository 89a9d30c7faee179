"""Views and template tags that are imported when they are first asked for."""

import subprocess
import sys
from pathlib import Path

from django.contrib.auth.decorators import login_not_required
from django.template import TemplateSyntaxError, engines
from django.test import SimpleTestCase
from django.urls import URLResolver, get_resolver

from brunt_web.interface.engine import Templates
from brunt_web.interface.later import LaterView, later
from brunt_web.settings import TEMPLATES

ROOT = Path(__file__).parents[2]
FIRST_PAGE = """
import sys, django; django.setup()
from django.test import RequestFactory, override_settings
from django.urls import resolve, reverse
view, args, kwargs = resolve(reverse("sign-in"))
request = RequestFactory().get("/sign-in/")
request.session, request.user, request.csp_nonce = {}, type("Nobody", (), {"is_authenticated": False})(), ""
view(request).render()
heavy = {"numpy", "scipy", "uncertainties", "pint", "ninja", "pydantic", "ortools", "PIL", "brunt_web.testing.views", "brunt_web.comparison.page"}
print(sorted(heavy & set(sys.modules)))
"""


def every(resolver):
    for one in resolver.url_patterns:
        if isinstance(one, URLResolver):
            yield from every(one)
        else:
            yield one


class Later(SimpleTestCase):
    def test_every_address_leads_to_a_view_that_is_there(self):
        views = [p.callback for p in every(get_resolver())]
        lazy = [v for v in views if isinstance(v, LaterView)]
        self.assertGreater(len(lazy), 150)
        for view in lazy:
            self.assertTrue(callable(view.view()), view.__module__)
            self.assertEqual(view.view().__name__, view.__name__)

    def test_what_is_set_on_a_view_is_asked_of_it(self):
        with self.assertRaises(AttributeError):
            getattr(later("brunt_web.changes.views").changes, "login_required")  # noqa: B009
        read = later("brunt_web.notebooks.reading").read
        self.assertEqual((read.login_required, read.csrf_exempt), (False, True))
        self.assertTrue(callable(login_not_required(read.view())))
        with self.assertRaises(AttributeError):
            later("brunt_web.changes.views").no_such_view.view()

    def test_the_first_page_imports_nothing_that_computes(self):
        done = subprocess.run([sys.executable, "-c", FIRST_PAGE], cwd=ROOT, capture_output=True, text=True)  # fmt: skip
        self.assertEqual((done.stdout.strip(), done.returncode), ("[]", 0), done.stderr[-2000:])

    def test_what_a_jobs_process_is_forked_from_has_imported_everything(self):
        told = "import sys, brunt_web.jobs.child; print('brunt_web.testing.curve_views' in sys.modules)"
        done = subprocess.run([sys.executable, "-c", told], cwd=ROOT, capture_output=True, text=True)  # fmt: skip
        self.assertEqual((done.stdout.strip(), done.returncode), ("True", 0), done.stderr[-2000:])


class Libraries(SimpleTestCase):
    def test_all_tags_are_found_by_their_names(self):
        found = engines["django"].engine.template_libraries
        self.assertLessEqual({"brunt", "bench", "changes", "l10n", "static", "tz"}, set(found))
        for name in found:
            self.assertTrue(found[name].tags or found[name].filters, name)

    def test_one_that_there_is_none_of_is_told_with_those_there_are(self):
        engine = Templates(
            {"OPTIONS": TEMPLATES[0]["OPTIONS"], "NAME": "x", "DIRS": [], "APP_DIRS": False}
        )
        with self.assertRaisesRegex(TemplateSyntaxError, "not a registered tag library.*\n.*bench"):
            engine.from_string("{% load no_such %}")
        self.assertEqual(engine.from_string("{% load l10n %}{{ 1|unlocalize }}").render(), "1")
