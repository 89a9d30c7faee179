"""Sizes measured on each specimen, on some of a batch, or taken as drawn, with what that leaves open."""

from uuid import uuid4

from brunt_core.errors import InputError
from brunt_web.exchange.export import export_csv
from brunt_web.library.models import Procedure
from brunt_web.results.models import Result
from brunt_web.testing.actions.record_test import Entry, measure
from brunt_web.testing.attempt import attempt_result
from brunt_web.testing.models import Measurement, Test
from tests.support.workshop import NOW, put
from tests.web.test_bench_actions import Benches


class Sizes(Benches):
    def taken(self, how: str):
        one = self.one("tension")
        Procedure.objects.filter(pk=one.procedure_id).update(sizes=how)
        return self.again(one)

    def test_each_must_be_measured(self):
        with self.assertRaisesRegex(InputError, "missing"):
            put(self.taken("each"), self.user, Entry(uuid4(), NOW, {"force": "500 N"}))

    def test_nominal_sizes_carry_their_uncertainty_and_are_marked(self):
        """u(σ)/σ = √((0.1/5)² + (0.1/2)²) = 5.39 % from the sizes alone (GUM 5.1.2), by hand."""
        turn = self.taken("nominal")
        sizes = turn.geometry.nominal
        page = self.client.get(turn.address)
        self.assertContains(page, f"{sizes['width']:g} ± 0.1 mm")
        self.assertContains(page, "nominal, unless typed")
        put(turn, self.user, Entry(uuid4(), NOW, {"force": "500 N"}))
        result = Result.objects.get(property_key="tensile_strength")
        expected = sum((0.1 / sizes[k]) ** 2 for k in ("width", "thickness")) ** 0.5
        self.assertAlmostEqual(result.uncertainty / result.lower / expected, 1, delta=0.02)
        self.assertFalse(Measurement.objects.exists())
        self.assertEqual(set(Test.objects.get().assumed), {"width", "thickness"})
        self.assertContains(self.client.get(f"/specimens/{turn.code}/"), "nominal, not measured")
        self.assertIn("nominal: width", export_csv(turn.campaign))

    def test_a_typed_or_measured_size_comes_first(self):
        turn = self.taken("nominal")
        put(
            turn, self.user, Entry(uuid4(), NOW, {"force": "500 N", "width": "5", "thickness": "2"})
        )
        self.assertEqual(Test.objects.get().assumed, {})
        self.assertEqual(Measurement.objects.count(), 2)

    def test_some_of_a_batch_stand_for_the_rest(self):
        turn = self.taken("batch")
        beside = turn.campaign.specimens.filter(condition=turn.condition).exclude(
            pk=turn.specimen_id
        )
        self.assertEqual(attempt_result(turn, {"force": "500 N"}, "").computation, None)
        for specimen, width in zip(beside[:2], ("5.00", "5.10"), strict=True):
            measure(specimen, self.user, NOW, {"width": width, "thickness": "2.00"})
        fresh = self.again(turn)
        done = attempt_result(fresh, {"force": "500 N"}, "").computation
        self.assertAlmostEqual(done.values["width"] * 1e3, 5.05)
        put(fresh, self.user, Entry(uuid4(), NOW, {"force": "500 N"}))
        self.assertContains(self.client.get(f"/specimens/{turn.code}/"), "as of the batch")

    def test_a_file_without_sizes_is_understood(self):
        turn = self.taken("nominal")
        text = f"specimen;load\n{turn.code};500 N\n"
        address = f"/campaigns/{turn.campaign_id}/import-data/"
        self.assertContains(self.client.post(address + "preview/", {"text": text}), "understood")
        self.client.post(address + "store/", {"text": text})
        self.assertEqual(set(Test.objects.get().assumed), {"width", "thickness"})


class Sections(Benches):
    """One break, another section: of the fracture surface where it was read, as drawn where fixed."""

    def test_each_strength_is_named_by_its_section(self):
        turn = self.one("tension")
        turn.procedure.parameters["drawn_area"] = "12.5 mm^2"
        turn.procedure.save()
        typed = {"force": "500 N", "width": "5", "thickness": "2", "fracture_area": "8 mm^2"}
        put(turn, self.user, Entry(uuid4(), NOW, typed))
        found = dict(Result.objects.values_list("property_key", "lower"))
        self.assertAlmostEqual(found["tensile_strength"] / 1e6, 50)
        self.assertAlmostEqual(found["strength_of_fracture"] / 1e6, 62.5)
        self.assertAlmostEqual(found["strength_as_drawn"] / 1e6, 40)
        address = f"/campaigns/{turn.campaign_id}/compare/?property=strength_of_fracture"
        self.assertContains(self.client.get(address), "strength on the fracture surface")
