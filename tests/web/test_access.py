"""Nobody reads or changes another workshop's things, whatever the address."""

from django.test import TestCase

from brunt_core.specimens.types import make_type
from brunt_web.library.actions.variants import save_variant
from brunt_web.people.models import Workshop
from brunt_web.printing.actions.observe import PrintObservation, grade
from brunt_web.printing.models import Print
from brunt_web.testing.models import Test
from tests.support.printing import batch
from tests.support.workshop import BACKEND, campaign, fill, person

BAR = make_type("own", "House bar", "bar", {"overall": 80, "width": 10, "thickness": 4})


class Access(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.stranger = person("owner"), person("stranger")
        cls.batch = batch(cls.owner)
        cls.campaign = campaign(cls.owner, question="Another?")
        fill(cls.campaign, cls.owner, {"Fernhall PLA": ["500"]})
        cls.specimen = Print.objects.filter(plate__batch=cls.batch).first().specimen
        cls.variant = save_variant(cls.owner.seat.workshop, "House bar", BAR)
        cls.grade = grade(cls.batch, cls.owner, PrintObservation("warp", 3))

    def setUp(self):
        self.client.force_login(self.stranger, backend=BACKEND)

    def test_reading(self):
        campaigns, code = f"/campaigns/{self.campaign.pk}/", self.specimen.code
        for address in (
            campaigns,
            f"{campaigns}ask/",
            f"{campaigns}ask/edit/",
            f"{campaigns}print/",
            f"{campaigns}treat/",
            f"{campaigns}measure/",
            f"{campaigns}labels/",
            f"{campaigns}bench/",
            f"{campaigns}compare/",
            f"{campaigns}bring-in/",
            f"{campaigns}results.csv",
            f"/batches/{self.batch.pk}/",
            f"/batches/{self.batch.pk}/measure/",
            f"/batches/{self.batch.pk}/plate-sheet/",
            f"/batches/{self.batch.pk}/plate-1.3mf",
            f"/grades/{self.grade.pk}/photo/",
            f"/specimens/{code}/",
            f"/specimens/{code}/bench/",
            f"/specimens/{code}/print.stl",
            f"/library/lots/{self.batch.lot_id}/",
            f"/library/recipes/{self.batch.recipe_id}/",
            f"/library/recipes/{self.batch.recipe_id}/against/{self.batch.recipe_id}/",
            f"/library/types/own-{self.variant.pk}/",
        ):
            with self.subTest(address):
                self.assertEqual(self.client.get(address).status_code, 404)

    def test_changing(self):
        campaigns, code = f"/campaigns/{self.campaign.pk}/", self.specimen.code
        for address, form in (
            (f"{campaigns}ask/more/", {"more": "3"}),
            (f"{campaigns}ask/accept/", {"key": "walls", "reason": "mine"}),
            (f"{campaigns}ask/withdraw/", {"key": "walls"}),
            (f"{campaigns}made/", {"condition": 1}),
            (f"{campaigns}treat/done/", {"kind": "state"}),
            (f"{campaigns}treat/out/", {}),
            (f"{campaigns}ask/edit/", {"question": "Mine now"}),
            (f"{campaigns}print/", {"printer": self.batch.printer_id}),
            (f"/batches/{self.batch.pk}/plates/1/printed/", {}),
            (f"/batches/{self.batch.pk}/plates/1/empty/", {}),
            (f"/batches/{self.batch.pk}/outcome/", {"specimen": code}),
            (f"/batches/{self.batch.pk}/reprint/", {"specimen": code}),
            (f"/batches/{self.batch.pk}/grade/", {"aspect": "warp"}),
            (f"/specimens/{code}/swap/", {"other": code, "reason": "x"}),
            (f"/specimens/{code}/move/", {"other": code, "reason": "x"}),
            (f"/specimens/{code}/role/", {"reason": "x"}),
            (f"/specimens/{code}/weigh/", {"mass": "1"}),
            (f"/specimens/{code}/note/", {"words": "x"}),
            (f"/specimens/{code}/bench/", {"force": "5 N"}),
            (f"/specimens/{code}/bench/try/", {"force": "5 N"}),
            (f"/specimens/{code}/bench/undo/", {}),
            (f"/specimens/{code}/leave-out/", {"reason": "mine"}),
            (f"/specimens/{code}/measure/", {"width": "5"}),
            (f"/library/lots/{self.batch.lot_id}/weighed/", {"remaining": "1 g"}),
            (
                f"/library/lots/{self.batch.lot_id}/dried/",
                {"temperature": "70", "duration": "8"},
            ),
            (f"/library/types/own-{self.variant.pk}/own/", {"name": "Mine", "width": "9"}),
            (f"/library/recipes/{self.batch.recipe_id}/", {"walls": "9"}),
        ):
            with self.subTest(address):
                self.assertEqual(self.client.post(address, form).status_code, 404)
        self.assertEqual(Test.objects.count(), 1)
        self.campaign.refresh_from_db()
        self.assertEqual(self.campaign.question, "Another?")

    def test_their_things_are_not_offered(self):
        page = self.client.get("/campaigns/new/?shape=rank").content.decode()
        self.assertNotIn("Fernhall PLA", page)
        self.assertNotIn("Coupons", page)
        self.assertNotIn("Fernhall", self.client.get("/library/").content.decode())
        mine = campaign(self.stranger, printed=False)
        taken = {"printer": self.batch.printer_id, "procedure": mine.procedures.first().pk}
        answer = self.client.post(f"/campaigns/{mine.pk}/print/", taken)
        self.assertContains(answer, "Choose a printer", status_code=422)
        condition = mine.conditions.first()
        change = {"recipe": self.batch.recipe_id}
        self.client.post(f"/campaigns/{mine.pk}/conditions/{condition.pk}/making/", change)
        condition.refresh_from_db()
        self.assertIsNone(condition.recipe)

    def test_an_id_of_theirs_is_unknown_on_the_line(self):
        answer = self.client.get("/line/", {"q": self.specimen.code}).json()
        self.assertEqual(answer["kind"], "refused")
        self.assertNotIn("Did you mean", answer["says"])

    def test_ids_may_repeat_between_workshops(self):
        Workshop.objects.filter(pk=self.stranger.seat.workshop_id).update(
            first_id=self.batch.campaign.workshop.first_id
        )
        mine = campaign(self.stranger)
        shared = set(mine.specimens.values_list("code", flat=True))
        self.assertTrue(shared & set(self.batch.campaign.specimens.values_list("code", flat=True)))
        code = sorted(shared)[0]
        self.assertContains(self.client.get(f"/specimens/{code}/"), "Which for the pawl?")
