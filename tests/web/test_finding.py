"""Campaigns: found by words, material, ID and your ID, by state and date, paged, archived, copied."""

from datetime import timedelta

from django.test import TestCase
from django.utils import timezone

from brunt_web.campaigns.models import Campaign
from tests.support.workshop import BACKEND, campaign, fill, person

PLA, ASA = "Fernhall PLA", "Tarn ASA"


class Finding(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.user = person()
        cls.one = campaign(
            cls.user,
            materials=(PLA, "Fernhall PP"),
            replicates=1,
            orientations=("flat",),
            question="Which pawl?",
        )
        cls.other = campaign(
            cls.user,
            materials=(ASA, "Tarn PC"),
            replicates=1,
            orientations=("flat",),
            question="Wie heiß?",
        )

    def setUp(self):
        self.client.force_login(self.user, backend=BACKEND)

    def seen(self, **query):
        page = self.client.get("/", query)
        self.assertEqual(page.status_code, 200)
        return {c["campaign"].question for c in page.context["cards"]}

    def test_by_words_material_and_ids(self):
        bar = self.one.specimens.first()
        bar.own_id = "Bar 7 طراز"
        bar.save()
        for q, found in (
            ("pawl", {"Which pawl?"}),
            ("WIE heiß", {"Wie heiß?"}),
            ("tarn", {"Wie heiß?"}),
            (bar.code, {"Which pawl?"}),
            (bar.code.replace("-", "").lower(), {"Which pawl?"}),
            ("طراز", {"Which pawl?"}),
            ("pawl tarn", set()),
            ("'; --", set()),
            ("%", set()),
        ):
            self.assertEqual(self.seen(q=q), found, q)
        self.assertContains(self.client.get("/", {"q": "nothing like it"}), "No campaign matches")

    def test_by_state_and_date(self):
        fill(self.one, self.user, {PLA: ["500"], "Fernhall PP": ["301"]})
        self.assertEqual(self.seen(state="done"), {"Which pawl?"})
        self.assertEqual(self.seen(state="open"), {"Wie heiß?"})
        tomorrow = timezone.now().date() + timedelta(days=1)
        self.assertEqual(self.seen(since=str(tomorrow)), set())
        self.assertEqual(len(self.seen(until=str(tomorrow))), 2)
        self.assertEqual(len(self.seen(since="yesterday", state="odd", page="-3")), 2)

    def test_the_sixty_first_is_on_a_later_page(self):
        Campaign.objects.bulk_create(
            Campaign(
                workshop=self.user.seat.workshop, question=f"Question {i}", created_by=self.user
            )
            for i in range(198)
        )
        pages = [self.seen(page=n) for n in range(1, 10)]
        self.assertEqual(len(set().union(*pages)), 200)
        self.assertContains(self.client.get("/"), "200 campaigns")
        self.assertEqual(self.seen(q="Question 61"), {"Question 61", "Question 161"})

    def test_put_away_and_brought_back(self):
        self.client.post(f"/campaigns/{self.one.pk}/archive/")
        self.assertEqual(self.seen(), {"Wie heiß?"})
        self.assertEqual(self.seen(state="away"), {"Which pawl?"})
        self.assertContains(self.client.get(f"/campaigns/{self.one.pk}/"), "Restore")
        self.client.post(f"/campaigns/{self.one.pk}/archive/")
        self.assertEqual(len(self.seen()), 2)

    def test_a_copy_is_a_new_plan(self):
        page = self.client.get("/campaigns/new/", {"copy": self.one.pk})
        self.assertContains(page, "Which pawl?")
        self.assertEqual(Campaign.objects.count(), 2)
        self.client.force_login(person("stranger"), backend=BACKEND)
        self.assertEqual(self.client.get("/campaigns/new/", {"copy": self.one.pk}).status_code, 404)
        self.assertEqual(self.client.post(f"/campaigns/{self.one.pk}/archive/").status_code, 404)
