"""A database as it stood before specimens had lives: its migrations, its loader's shape; invented."""

from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from random import Random
from uuid import UUID

from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from brunt_core.computation import compute
from brunt_core.methods.registry import method

BEFORE = [
    ("campaigns", "0005_in_hand"),
    ("testing", "0002_bench"),
    ("printing", "0002_life"),
    ("library", "0004_ranked_by"),
    ("people", "0001_initial"),
]
START = datetime(2026, 9, 1, 8, 0, tzinfo=UTC)
BASE = {
    "nozzle_temperature": {"value": 508.15, "shown": "235 °C"},
    "layer_height": {"value": 0.0002, "shown": "0.2 mm"},
    "walls": {"value": 4.0, "shown": "4"},
}


@contextmanager
def database_of_its_own(name: str):
    """The connection on an empty database of its own; dropped afterwards, the connection put back."""
    stood = connection.settings_dict["NAME"]
    with connection.cursor() as cursor:
        cursor.execute(f'CREATE DATABASE "{name}" TEMPLATE template0')
    _point_at(name)
    try:
        yield
    finally:
        _point_at(stood)
        with connection.cursor() as cursor:
            cursor.execute(f'DROP DATABASE "{name}"')


def _point_at(name: str) -> None:
    connection.close()
    connection.settings_dict["NAME"] = name


def migrate(targets) -> object:
    """Migrate to these; returns the models as they are there."""
    executor = MigrationExecutor(connection)
    targets = targets or executor.loader.graph.leaf_nodes()
    executor.migrate(targets)
    return executor.loader.project_state(targets).apps


class OldShop:
    """Fills the old tables: every kind of record there was, at least once."""

    def __init__(self, apps) -> None:
        self.get = apps.get_model
        self.random, self.at = Random(11), START
        self.user = self.new("auth.User", username="bench-lead", password="!")
        self.shop = self.new("people.Workshop", name="Glasshouse", created_at=START)
        self.new("people.Seat", user=self.user, workshop=self.shop, role="bench lead")
        self.materials = [
            self.own("library.Material", name=n, family=f, density=1240.0, created_at=START)
            for n, f in (("Fernhall PLA", "pla"), ("Tarn PA12", "pa12"))
        ]
        self.lot = self.new("library.Lot", material=self.materials[0], workshop=self.shop,
                            name="spool 3", colour="slate", bought=1.0)  # fmt: skip
        self.recipe = self.own("library.Recipe", name="Solid", settings=BASE, created_at=START)
        self.printer = self.own("library.Printer", name="Bed", bed_width=0.22, bed_depth=0.22)
        self.rig = self.own("library.Rig", name="Frame", capacity=750.0, resolution=0.1)
        self.numbers = iter(range(1, 999))

    def new(self, model, **fields):
        """One row of a historical model."""
        return self.get(model).objects.create(**fields)

    def own(self, model, **fields):
        """One row of the workshop."""
        return self.new(model, workshop=self.shop, **fields)

    def procedure(self, name, key, orientation="flat", specimen_type="tension-1ba", **more):
        """One procedure."""
        return self.own("library.Procedure", name=name, method_key=key, orientation=orientation,
                        specimen_type=specimen_type, rig=self.rig, **more)  # fmt: skip

    def campaign(self, question, kind, labels, procedures, n=3, setting=""):
        """A campaign of one factor with its specimens in a shuffled order."""
        one = self.own("campaigns.Campaign", question=question, created_by=self.user, recipe=self.recipe,
                       printer=self.printer, seed=5, created_at=START, replicates=n)  # fmt: skip
        for i, p in enumerate(procedures):
            self.new("campaigns.CampaignProcedure", campaign=one, procedure=p, position=i)
        factor = self.new("campaigns.Factor", campaign=one, kind=kind, name=setting or kind.capitalize(),
                          position=0, setting=setting)  # fmt: skip
        for i, label in enumerate(labels):
            material = self.materials[i] if kind == "material" else self.materials[0]
            value = float(label.split()[0]) + 273.15 if setting else None
            level = self.new("campaigns.Level", factor=factor, position=i, label=label, value=value,
                             material=material if kind == "material" else None)  # fmt: skip
            condition = self.new("campaigns.Condition", campaign=one, position=i, label=label,
                                 material=material, recipe=self.recipe)  # fmt: skip
            condition.levels.add(level)
            for p in procedures:
                for k in range(n):
                    self._specimen(one, condition, p, k + 1)
        return one

    def _specimen(self, one, condition, procedure, replicate):
        number = next(self.numbers)
        return self.own("campaigns.Specimen", campaign=one, condition=condition, procedure=procedure,
                        code=f"A1-{number:03d}", replicate=replicate,
                        run_order=number * 7919 % 1009)  # fmt: skip

    def specimens(self, one):
        """Its specimens in test order."""
        return list(
            self.get("campaigns.Specimen").objects.filter(campaign=one).order_by("run_order")
        )

    def later(self, seconds=90):
        """Time goes on."""
        self.at += timedelta(seconds=seconds)
        return self.at

    def test(self, specimen, inputs, outcome, **more):
        """A test with its readings, sizes and results."""
        at = self.later()
        key = UUID(int=self.random.getrandbits(128), version=4)
        test = self.new("testing.Test", specimen=specimen, entry_key=key, outcome=outcome, by=self.user,
                        at=at, recorded_at=at, **more)  # fmt: skip
        fields = {k: v for k, v in vars(test).items() if not k.startswith("_")}
        self.new("testing.HistoricalTest", **fields, history_date=at, history_type="+")
        if outcome == "void":
            return test
        one = self.get("library.Procedure").objects.get(pk=specimen.procedure_id)
        done = compute(method(one.method_key), {**one.parameters, **inputs}, outcome)
        for key, reading in done.readings.items():
            if reading.input.section:
                self.size(specimen, key, inputs[key], reading.si, at)
            elif key in inputs:
                self.new("testing.Reading", test=test, key=key, text=inputs[key], unit="N",
                         lower=reading.observation.lower, upper=reading.observation.upper, uncertainty=0.1)  # fmt: skip
        for r in done.results:
            self.new("testing.Result", specimen=specimen, procedure=one, property_key=r.property.key,
                     lower=r.observation.lower, upper=r.observation.upper, uncertainty=r.uncertainty,
                     formula=r.formula, source=r.source, computed_by_version="0",
                     steps=[[s.formula, s.numbers, s.value] for s in r.steps])  # fmt: skip
        return test

    def size(self, specimen, key, text, value, at):
        """One size, with the history it had."""
        mark = self.new("testing.Measurement", specimen=specimen, key=key, text=text, value=value,
                        uncertainty=1e-5, by=self.user, at=at)  # fmt: skip
        fields = {k: v for k, v in vars(mark).items() if not k.startswith("_")}
        self.new("testing.HistoricalMeasurement", **fields, history_date=at, history_type="+")

    def batch(self, one, procedure, specimens, printed):
        """A batch of these, four to a plate."""
        batch = self.new("printing.Batch", campaign=one, number=1, printer=self.printer, lot=self.lot,
                         recipe=self.recipe, orientation=procedure.orientation, seed=1, by=self.user,
                         created_at=START, printed_at=START if printed else None)  # fmt: skip
        for i, s in enumerate(specimens):
            self.new("printing.Print", batch=batch, specimen=s, plate=i // 4, x=0.02 * (i % 4), y=0.01,
                     failed=i == 3, defects=["strings"] if i == 1 else [], note="",
                     mass=0.0026 if i < 3 else None, mass_text="2.60 g" if i < 3 else "")  # fmt: skip
        self.new("printing.Grade", batch=batch, specimen=specimens[0], aspect="finish", score=4,
                 at=START, by=self.user)  # fmt: skip
        return batch

    def fill(self) -> None:
        """Four campaigns: pulled, swept over heats with a batch, under load, treated and not."""
        flat = self.procedure("Tension, flat", "tension", speed=5e-3 / 60)
        up = self.procedure("Layer adhesion, upright", "layer-adhesion", "upright", speed=5e-3 / 60)
        pull = self.campaign("Which pulls?", "material", ["Fernhall PLA", "Tarn PA12"], [flat, up])
        self._pulls(self.specimens(pull)[:-2])
        sweep = self.campaign("Which heat?", "setting", ["220 °C", "235 °C", "250 °C"], [up],
                              setting="nozzle_temperature")  # fmt: skip
        rows = self.specimens(sweep)
        self.batch(sweep, up, rows[:7], printed=True)
        for s in rows[:3]:
            self.test(s, self._bar("300 N"), "broke")
        self._under_load()
        treated = self.campaign(
            "Annealed?", "treatment", ["as printed", "annealed 95 °C, 2 h"], [flat]
        )
        for s in self.specimens(treated)[:4]:
            self.test(s, self._bar("420 N"), "broke", place="gauge")

    def _bar(self, force):
        width = f"{self.random.gauss(5.02, 0.03):.2f}"
        return {"force": force, "width": width, "thickness": f"{self.random.gauss(2.01, 0.02):.2f}"}

    def _pulls(self, rows) -> None:
        self.test(rows[0], {}, "void", reason="slipped in the grip")
        self.test(rows[1], self._bar("749 N"), "held")
        self.test(
            rows[2], self._bar("12 N"), "broke", excluded=True, exclusion_reason="a void in it"
        )
        self.test(rows[3], self._bar("510 N"), "broke", stated=True, note="from the old notes")
        for s in rows[4:]:
            force = f"{self.random.gauss(480, 20):.0f} N"
            self.test(s, self._bar(force), "broke", place="gauge", answers=[{"ask": "outlier"}])

    def _under_load(self) -> None:
        creep = self.procedure("Creep", "creep", specimen_type="creep-80",
                               parameters={"load": "10 N", "span": "64 mm"},
                               reading_times=[60.0, 3600.0, 86400.0])  # fmt: skip
        bend = self.procedure("Flexure", "flexure", specimen_type="bend-80",
                              parameters={"span": "64 mm"})  # fmt: skip
        one = self.campaign(
            "What creeps?", "material", ["Fernhall PLA", "Tarn PA12"], [creep, bend], 2
        )
        hung, *more = [s for s in self.specimens(one) if s.procedure_id == creep.pk]
        at = self.later()
        self.new("testing.Clock", specimen=hung, started_at=at, by=self.user)
        for i, elapsed in enumerate((60.0, 3600.0)):
            self.new("testing.TimedReading", specimen=hung, entry_key=UUID(int=i + 1, version=4),
                     key="readings", due=elapsed, elapsed=elapsed, text=f"{1 + i / 10} mm",
                     value=(1 + i / 10) / 1e3, taken_at=at + timedelta(seconds=elapsed),
                     by=self.user)  # fmt: skip
        self.size(more[0], "width", "10.02 mm", 0.01002, self.later())
        bar = next(s for s in self.specimens(one) if s.procedure_id == bend.pk)
        sizes = {"width": "10.02 mm", "thickness": "4.01 mm"}
        self.test(
            bar, {"force": "120 N", "deflection": "8 mm", **sizes}, "broke", place="under_load"
        )
        self.new("testing.Curve", specimen=bar, name="bar.csv", data=b"0 0\n1 20\n", points=2,
                 at=self.at, by=self.user)  # fmt: skip
        self.new(
            "testing.Photo", specimen=bar, file="p.png", width=4, height=3, at=self.at, by=self.user
        )
        self.new("campaigns.AcceptedConfounder", campaign=one, key="lot", sentence="Lot differs.",
                 reason="one spool ran out", at=self.at, by=self.user)  # fmt: skip
