"""What is refused, over the address a user meets it at: one sentence, and nothing changed."""

from django.core.files.uploadedfile import SimpleUploadedFile

from brunt_web.campaigns.models import HistoryEvent, Specimen, Turn
from brunt_web.printing.models import Batch, Plate, Print
from brunt_web.testing.models import AskedCurve, Curve, Photo, Test
from tests.support.printing import batch
from tests.support.reading import words
from tests.support.workshop import campaign, entry, person, put
from tests.web.test_bench_actions import Benches
from tests.web.test_import_data import HEAD, Bringing, rows


class Plates(Benches):
    """A plate is emptied while it is not printed, and never after."""

    def test_one_is_emptied_and_its_specimens_wait_again(self):
        one = batch(self.user, printed=False)
        codes = set(Print.objects.values_list("specimen__code", flat=True))
        answer = self.client.post(f"/batches/{one.pk}/plates/1/empty/", follow=True)
        self.assertContains(answer, "Plate 1 is empty")
        self.assertEqual((Plate.objects.count(), Batch.objects.count()), (0, 0))
        self.assertEqual(
            set(
                HistoryEvent.objects.filter(kind="off_plate").values_list(
                    "specimen__code", flat=True
                )
            ),
            codes,
        )
        self.assertEqual(
            set(Specimen.objects.filter(code__in=codes).values_list("made", flat=True)), {"planned"}
        )

    def test_a_printed_one_stays_and_is_not_printed_twice(self):
        one = batch(self.user)
        refused = self.client.post(f"/batches/{one.pk}/plates/1/empty/")
        self.assertContains(refused, "its specimens stay on it", status_code=422)
        self.assertEqual(Plate.objects.count(), 1)
        self.client.post(f"/batches/{one.pk}/plates/1/printed/", {"nozzle_temperature": "220"})
        self.assertEqual(HistoryEvent.objects.filter(kind="printed").count(), Print.objects.count())

    def test_a_tested_print_is_not_called_failed(self):
        one = batch(self.user)
        print_ = Print.objects.first()
        put(print_.specimen, self.user, entry())
        told = {"specimen": print_.specimen.code, "failed": "1"}
        refused = self.client.post(f"/batches/{one.pk}/outcome/", told)
        self.assertContains(refused, "is tested; mark its test as void instead", status_code=422)
        print_.refresh_from_db()
        self.assertFalse(print_.failed)
        sound = self.client.post(f"/batches/{one.pk}/reprint/", {"specimen": print_.specimen.code})
        self.assertContains(sound, "has not failed", status_code=422)

    def test_a_defect_nobody_knows(self):
        one = batch(self.user)
        code = Print.objects.first().specimen.code
        told = {"specimen": code, "defects": ["moths"]}
        refused = self.client.post(f"/batches/{one.pk}/outcome/", told)
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(Print.objects.first().defects, [])


class Mixups(Benches):
    """Labels exchanged: each refusal leaves both histories as they were."""

    def setUp(self):
        super().setUp()
        self.one_campaign = campaign(self.user, orientations=("flat",))
        self.bars = list(self.one_campaign.specimens.order_by("pk"))

    def test_each_refusal_has_its_sentence(self):
        first, second = self.bars[:2]
        put(second, self.user, entry())
        elsewhere = campaign(self.user, question="Another?").specimens.first()
        before = HistoryEvent.objects.count()
        base = f"/specimens/{first.code}/"
        for address, told, sentence in (
            ("swap/", {"other": second.code, "reason": ""}, "Give a reason"),
            ("swap/", {"other": second.code, "reason": "r" * 301}, "300"),
            ("swap/", {"other": first.code, "reason": "slip"}, "with itself"),
            ("swap/", {"other": elsewhere.code, "reason": "slip"}, "another campaign"),
            ("swap/", {"other": "", "reason": "slip"}, "nothing typed"),
            ("swap/", {"other": "ZZ-ZZZ", "reason": "slip"}, "no specimen"),
            ("move/", {"other": second.code, "reason": "slip"}, "no test that could be moved"),
            ("role/", {"condition": first.condition_id, "reason": "slip"}, "already"),
        ):
            with self.subTest(address, **told):
                answer = self.client.post(base + address, told)
                self.assertContains(answer, sentence, status_code=422)
        self.assertEqual(HistoryEvent.objects.count(), before)

    def test_a_test_goes_to_another_and_not_onto_one_of_its_own(self):
        first, second, third = self.bars[:3]
        for bar in (first, third):
            put(bar, self.user, entry())
        base = f"/specimens/{first.code}/move/"
        refused = self.client.post(base, {"other": third.code, "reason": "read the wrong label"})
        self.assertEqual(refused.status_code, 422)
        self.client.post(base, {"other": second.code, "reason": "read the wrong label"})
        tested = set(Test.objects.values_list("turn__specimen__code", flat=True))
        self.assertEqual(tested, {second.code, third.code})
        self.assertEqual(Turn.objects.get(specimen=first).state, "waiting")

    def test_a_correction_is_taken_back_once(self):
        first, second = self.bars[:2]
        put(first, self.user, entry("480 N"))
        self.client.post(
            f"/specimens/{first.code}/swap/", {"other": second.code, "reason": "labels fell off"}
        )
        self.assertEqual(Test.objects.get().turn.specimen, second)
        event = HistoryEvent.objects.get(kind="swapped", specimen=first)
        back = f"/specimens/{first.code}/events/{event.pk}/back/"
        self.assertContains(self.client.post(back, follow=True), "It was undone")
        self.assertEqual(Test.objects.get().turn.specimen, first)
        self.assertEqual(self.client.post(back).status_code, 422)
        self.assertEqual(Test.objects.get().turn.specimen, first)

    def test_of_another_workshop_nothing_is_found(self):
        mine = [b.code for b in self.bars]
        other = campaign(person("stranger")).specimens.exclude(code__in=mine).first()
        answer = self.client.post(
            f"/specimens/{self.bars[0].code}/swap/", {"other": other.code, "reason": "slip"}
        )
        self.assertContains(answer, "no specimen", status_code=422)
        self.assertEqual(
            self.client.post(f"/specimens/{other.code}/swap/", {"reason": "x"}).status_code, 404
        )


class Rows(Bringing):
    """Rows that cannot be imported say which and why; the rest of the file is read."""

    def refusal(self, text: str) -> str:
        return words(self.look(text))

    def test_each_kind_of_row(self):
        code = self.campaign.specimens.filter(turns__procedure__orientation="flat").first().code
        long_name, long_id = "x" * 81, "y" * 81
        for text, sentence in (
            (HEAD + "Fernhall PLA;flat;500 N;5;2;7\n", "more cells than the head"),
            (HEAD + ";flat;500 N;5;2\n", "Neither specimen nor condition"),
            (HEAD + "Fernhall PLA;sideways;500 N;5;2\n", "not one of this campaign"),
            (HEAD + "Fernhall PLA;;500 N;5;2\n", "Which test is this"),
            (HEAD + f"{long_name};flat;500 N;5;2\n", "There is no condition"),
            ("own id;" + HEAD + f"{long_id};Fernhall PLA;flat;500 N;5;2\n", "at most 80"),
            ("own id;load;width;thickness\nbar 7;500 N;5;2\n", "is called “bar 7”"),
            (f"specimen;load;width;thickness\n{code};500 N;5;2\n{code};1;5;2\n", "earlier row"),
            ("outcome;" + HEAD + "melted;Fernhall PLA;flat;500 N;5;2\n", "not an outcome"),
            ("outcome;" + HEAD + "void;Fernhall PLA;flat;500 N;5;2\n", "needs a reason"),
            ("mode;" + HEAD + "sulked;Fernhall PLA;flat;500 N;5;2\n", "not a failure mode"),
            ("place;" + HEAD + "attic;Fernhall PLA;flat;500 N;5;2\n", "not a place"),
            ("excluded;" + HEAD + "yes;Fernhall PLA;flat;500 N;5;2\n", "no column says why"),
        ):
            with self.subTest(sentence):
                self.assertIn(sentence, self.refusal(text))
        self.assertEqual(Test.objects.count(), 0)

    def test_a_new_condition_has_a_name_that_fits(self):
        text = HEAD + f"{'x' * 81};flat;500 N;5;2\n"
        self.assertIn("longer than 80", words(self.look(text, create_missing="1")))

    def test_two_with_one_own_id_are_significant_by_their_own(self):
        head = "own id;" + HEAD
        text = head + "a1;Fernhall PLA;flat;500 N;5;2\na1;Fernhall PLA;flat;510 N;5;2\n"
        self.assertIn("“a1” stands in line 2 already", self.refusal(text))
        self.store(head + "a1;Fernhall PLA;flat;500 N;5;2\nA1;Tarn ASA;flat;510 N;5;2\n")
        self.assertEqual(Test.objects.count(), 2)
        again = "own id;procedure;load;width;thickness\na1;flat;1;5;2\n"
        self.assertIn("Several specimens are called", self.refusal(again))

    def test_data_import_twice_is_told(self):
        text = HEAD + rows(1, "500 N")
        self.store(text)
        self.assertIn("was imported before", self.refusal(text))
        self.assertEqual(Test.objects.count(), 1)


class Files(Benches):
    """Curves and photos that are none."""

    def setUp(self):
        super().setUp()
        self.turn = self.one("tension")
        self.base = f"/specimens/{self.turn.code}/"

    def test_nothing_is_answered_forgotten_or_changed_where_there_is_no_curve(self):
        for address in ("answer/", "forget/", "spikes/out/", "spikes/in/", "off/", "restore/"):
            with self.subTest(address):
                answer = self.client.post(self.base + "curve/" + address, {"way": "0,1"})
                self.assertIn(answer.status_code, (302, 422))
        self.assertEqual((Curve.objects.count(), AskedCurve.objects.count()), (0, 0))

    def test_a_photo_that_is_none(self):
        for content in (b"", b"no picture at all", b"\x89PNG\r\n\x1a\n" + b"\0" * 40):
            with self.subTest(content[:8]):
                file = SimpleUploadedFile("break.png", content, "image/png")
                answer = self.client.post(self.base + "photo/", {"photo": file})
                self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.client.post(self.base + "photo/", {}).status_code, 422)
        self.assertEqual(Photo.objects.count(), 0)


class More(Benches):
    def test_replicates_of_one_condition_by_its_page(self):
        one = campaign(self.user, orientations=("flat",))
        condition = one.conditions.first()
        address = f"/campaigns/{one.pk}/conditions/{condition.pk}/more/"
        self.assertContains(self.client.post(address, {"more": "2"}, follow=True), "has 2 more")
        self.assertEqual(condition.specimens.count(), 5)
        for wrong in ("0", "-1", "1000", "two", ""):
            with self.subTest(wrong):
                self.assertEqual(self.client.post(address, {"more": wrong}).status_code, 422)
        self.assertEqual(condition.specimens.count(), 5)
