"""Large campaigns: folded pages say what the drawn ones say; IDs for a decade; ten thousand in a campaign."""

import re
from collections import Counter
from unittest.mock import patch
from uuid import uuid4

from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext

from brunt_core.errors import InputError
from brunt_core.identifiers import SHORT_ONES, specimen_code
from brunt_core.specimens import mesh
from brunt_core.specimens.types import TYPES
from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import MOST_SPECIMENS, of_materials
from brunt_web.campaigns.models import Specimen, Turn
from brunt_web.campaigns.queries import columns_of, conditions_made
from brunt_web.interface.templatetags.brunt import drawn_state
from brunt_web.library.models import Material
from brunt_web.people.models import Workshop
from brunt_web.rack import queries
from brunt_web.rack.small import small_racks
from brunt_web.testing.actions.change_test import exclude
from brunt_web.testing.models import Test
from tests.support.reading import words
from tests.support.workshop import BACKEND, NOW, campaign, entry, person, put


class Large(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(cls.user, replicates=4)
        turns = list(Turn.objects.filter(campaign=cls.one).order_by("run_order"))
        for i, t in enumerate(turns[:9]):
            put(t.specimen, cls.user, entry(f"{500 + i} N"), step=t.step)
        exclude(Test.objects.first(), "slipped in the grip", cls.user, NOW)
        Turn.objects.filter(pk=turns[10].pk).update(state="void", outcome="void")
        Turn.objects.filter(pk=turns[11].pk).update(reading_outstanding=True)
        rest = [t.specimen_id for t in turns[12:]]
        Specimen.objects.filter(pk=rest[0]).update(made="planned", outstanding="making")
        Specimen.objects.filter(pk=rest[1]).update(outstanding="treatment", treated=True)
        Specimen.objects.filter(pk=rest[2]).update(
            spare=True, deviations=[{"says": "printed upside down", "turn": None}]
        )

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def rows(self, fold, opened=None):
        procedures = [c.procedure for c in columns_of(self.one)]
        with patch.object(queries, "FOLD", fold):
            return queries.rack(self.one, procedures, conditions_made(self.one), opened)

    def test_a_folded_rack_says_what_the_drawn_one_says(self):
        for drawn, folded in zip(self.rows(600), self.rows(3), strict=True):
            self.assertEqual(drawn.deviations, folded.deviations)
            self.assertEqual((drawn.folded, folded.folded), (False, True))
            for a, b in zip(drawn.cells, folded.cells, strict=True):
                for name in (*queries._COUNTS, "apart"):
                    self.assertEqual(getattr(a, name), getattr(b, name), name)
                self.assertEqual(b.states, Counter(drawn_state(t) for t in a.turns))
                self.assertEqual(b.total, len(a.turns))
                self.assertEqual(a.group.summary, b.group.summary)
                if b.bar:
                    self.assertAlmostEqual(sum(s.width for s in b.bar), 100, places=1)

    def test_one_row_is_opened_at_its_place(self):
        first = self.rows(3)[0].condition
        address = f"/campaigns/{self.one.pk}/"
        with patch.object(queries, "FOLD", 3):
            page = self.client.get(address)
            self.assertContains(page, 'class="sharebar"')
            self.assertNotContains(page, '<a class="spec')
            self.assertContains(page, f"?open={first.pk}#row-{first.pk}")
            page = self.client.get(f"{address}?open={first.pk}")
            self.assertContains(page, '<a class="spec', count=first.specimens.count())
            self.assertContains(page, "Collapse", count=1)
            for junk in ("x", "999999999999999999999", "-1"):
                self.assertEqual(self.client.get(f"{address}?open={junk}").status_code, 200)

    def test_the_rack_takes_as_many_questions_of_the_database_however_large(self):
        def asked():
            with CaptureQueriesContext(connection) as seen, patch.object(queries, "FOLD", 3):
                self.client.get(f"/campaigns/{self.one.pk}/")
            return len(seen)

        before = asked()
        condition = self.one.conditions.first()
        copied = condition.specimens.first()
        for i in range(30):
            made = Specimen.objects.get(pk=copied.pk)
            made.pk, made.uuid, made.code, made.replicate = (
                None,
                uuid4(),
                specimen_code(5000 + i),
                100 + i,
            )
            made.save()
        self.assertLessEqual(asked(), before)

    def test_a_card_counts_what_is_there(self):
        one = small_racks([self.one.pk])[self.one.pk]
        turns = list(Turn.objects.filter(campaign=self.one).select_related("specimen"))
        bare = [t for t in turns if not t.specimen.spare]
        self.assertEqual(one.count, Specimen.objects.filter(campaign=self.one).count())
        self.assertEqual(one.waiting, sum(t.waits for t in bare))
        self.assertEqual(one.left, sum(t.state in ("waiting", "running") for t in bare))
        self.assertEqual((one.unread, one.unmade, one.outstanding), (1, 1, 1))
        strokes = sum(path.count("M") for path in one.drawn.values())
        self.assertEqual(strokes, len(turns))
        self.assertEqual(set(one.drawn), {drawn_state(t) for t in turns})
        self.assertIn("1 reading to enter", words(self.client.get("/")))

    def test_many_conditions_fold_into_the_last_row_of_a_card(self):
        with patch("brunt_web.rack.small.ROWS", 1), patch("brunt_web.rack.small.STROKES", 3):
            one = small_racks([self.one.pk])[self.one.pk]
        self.assertEqual((one.folded, one.height), (self.one.conditions.count() - 1, 20))
        widths = [float(w) for p in one.drawn.values() for w in re.findall(r"h([\d.]+)v", p)]
        columns = len(columns_of(self.one))
        self.assertAlmostEqual(sum(widths), columns * (3 * 7 - 2.8), places=1)

    def test_long_orders_and_stacks_of_labels_are_parted(self):
        base = f"/campaigns/{self.one.pk}/"
        copied = self.one.specimens.first()
        for i in range(40):
            made = Specimen.objects.get(pk=copied.pk)
            made.pk, made.uuid, made.code, made.replicate = (
                None,
                uuid4(),
                specimen_code(6000 + i),
                200 + i,
            )
            made.save()
        total = Specimen.objects.filter(campaign=self.one).count()
        with patch("brunt_web.asking.views.ORDER_SHOWN", 3):
            self.assertContains(
                self.client.get(f"{base}ask/"), "more</a>", count=len(columns_of(self.one))
            )
            self.assertNotContains(self.client.get(f"{base}ask/?order=all"), "more</a>")
        self.assertNotContains(self.client.get(f"{base}labels/"), "labels, stack")
        with patch("brunt_web.printing.file_views.MOST_LABELS", 1):
            found = set()
            for page in range(1, 6):
                answer = self.client.get(f"{base}labels/?page={page}")
                found |= set(re.findall(r"<b>([A-Z0-9-]{6,7})</b>", answer.content.decode()))
            self.assertContains(answer, "labels, stack 2")
        self.assertEqual(len(found), total)


class Decade(TestCase):
    def setUp(self):
        self.user = person()
        self.client.force_login(self.user, backend=BACKEND)

    def test_when_short_ids_run_out_longer_ones_follow(self):
        campaign(self.user, replicates=1)
        Workshop.objects.update(next_specimen=SHORT_ONES - 2)
        one = campaign(
            self.user, materials=("Kestrel PA", "Pitch PC"), replicates=3, orientations=("flat",)
        )
        codes = sorted(one.specimens.values_list("code", flat=True), key=len)
        self.assertEqual([len(c) for c in codes], [6, 6, 7, 7, 7, 7])
        long = next(c for c in codes if len(c) == 7)
        for address in (
            f"/specimens/{long}/",
            f"/specimens/{long}/bench/",
            f"/specimens/{long}.stl",
        ):
            self.assertIn(self.client.get(address).status_code, (200, 404), address)
        self.assertEqual(self.client.get(f"/specimens/{long}/").status_code, 200)
        typed = long.replace("-", "").lower()
        self.assertEqual(
            self.client.get(f"/line/?q={typed}").json().get("url"), f"/specimens/{long}/bench/"
        )
        wrong = typed[:-1] + ("a" if typed[-1] != "a" else "c")
        self.assertIn(long, str(self.client.get(f"/line/?q={wrong}").json()))

    def test_a_longer_id_fits_on_every_specimen(self):
        code = specimen_code(SHORT_ONES + 77)
        for key, kind in TYPES.items():
            with self.subTest(key):
                body, bare = mesh.marked(kind, code), mesh.body(kind)
                self.assertTrue(body.is_watertight)
                self.assertLessEqual(body.volume, bare.volume + 1e-9)

    def test_ten_thousand_in_a_campaign_and_no_more(self):
        one = campaign(self.user, replicates=1)
        shop = one.workshop
        procedures = list(one.procedures.all())[:1]
        lots = [Material.objects.create(workshop=shop, name=f"Lot {i}", family="pla") for i in range(101)]  # fmt: skip
        self.assertEqual(MOST_SPECIMENS, 10_000)
        with self.assertRaisesRegex(InputError, "10100 specimens; a campaign holds 10000"):
            plan_campaign(shop, self.user, of_materials("Too many", lots, procedures, 100, 3))
        self.assertEqual(Specimen.objects.filter(campaign__question="Too many").count(), 0)
