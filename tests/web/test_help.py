"""Help: every page of the guide is read inside the application, its links lead somewhere, its words are found."""

import re

from django.test import TestCase
from django.urls import resolve

from brunt_core.methods.registry import methods
from brunt_web.help import pages
from brunt_web.help.pages import DOCS, search_sections, shelves
from tests.support.workshop import BACKEND, person


class Help(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def test_every_file_of_the_guide_is_a_page(self):
        keys = {p.key for shelf in shelves() for p in shelf.pages}
        guide = {p.stem for p in (DOCS / "guide").glob("*.md")} - {"README"}
        self.assertEqual(guide - keys, set())
        self.assertEqual({f"methods/{key}" for key in methods()} - keys, set())

    def test_every_link_and_picture_leads_somewhere(self):
        self.assertContains(self.client.get("/help/"), "User guide")
        seen: set[str] = set()
        for shelf in shelves():
            for page in shelf.pages:
                answer = self.client.get(f"/help/{page.key}/")
                self.assertEqual(answer.status_code, 200, page.key)
                text = answer.content.decode()
                self.assertNotIn(".md", re.sub(r"<code>.*?</code>", "", page.html), page.key)
                for address in set(re.findall(r'(?:href|src)="(/help/[^"#]*)', text)) - seen:
                    seen.add(address)
                    known = resolve(address)
                    find = pages.page if known.url_name == "help-page" else pages.picture
                    found = known.url_name == "help" or find(*known.kwargs.values())
                    self.assertTrue(found, f"{page.key}: {address}")

    def test_sections_are_found_by_all_their_words(self):
        for words, key, heading in (
            ("limit certificates rig", "workshop", "certificates"),
            ("reading lost", "test", "readings"),
            ("hammer energy notch", "methods/impact", "impact"),
        ):
            found = search_sections(words)
            self.assertIn(key, [f.page.key for f in found], words)
            page = self.client.get("/help/", {"q": words})
            self.assertContains(page, f"/help/{key}/#")
            self.assertIn(heading, page.content.decode().lower())
        self.assertEqual((search_sections("  "), search_sections("zzxqv")), ([], []))
        self.assertContains(
            self.client.get("/help/", {"q": "zzxqv <b>"}), "no sections with “zzxqv &lt;b&gt;”"
        )

    def test_what_is_no_page_is_not_found(self):
        for address in (
            "/help/nothing/",
            "/help/../settings/",
            "/help/pictures/x.png",
            "/help/methods/",
        ):
            self.assertEqual(self.client.get(address).status_code, 404, address)
