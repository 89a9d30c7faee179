"""Give every specimen that exists its life: turns, events, plates, moments. Nothing is dropped here.

What was one test a specimen becomes its turn at its procedure; sizes become a moment; a batch's plates
become rows; whatever was printed, measured, started, tested or left out is written down as it happened.
"""

from collections import defaultdict
from types import SimpleNamespace

from django.db import migrations

from brunt_core.computation import standard_instrument
from brunt_core.errors import InputError
from brunt_core.methods.registry import methods
from brunt_web.campaigns.outstanding import making_deviations, stored
from brunt_web.campaigns.outstanding import outstanding_of as owed_of
from brunt_web.campaigns.requirements import Requirements, requirements_of
from brunt_web.campaigns.resolved_parts import base_among, resolved


def fill(apps, schema_editor):
    """Everything, workshop by workshop."""
    _Filling(apps).run()


class _Filling:
    def __init__(self, apps) -> None:
        self.get = apps.get_model
        self.Specimen, self.Turn = self.get("campaigns", "Specimen"), self.get("campaigns", "Turn")
        self.Event = self.get("campaigns", "LifeEvent")
        self.Test, self.Print = self.get("testing", "Test"), self.get("printing", "Print")
        self.Measurement = self.get("testing", "Measurement")

    def run(self) -> None:
        self._asks()
        self._plates()
        for campaign in self.get("campaigns", "Campaign").objects.select_related("recipe"):
            self._campaign(campaign)
        self._hang("Test", "Result", "Clock", "TimedReading", "Curve")
        self._hang("HistoricalTest", "HistoricalTimedReading", "HistoricalCurve")
        self._old_sizes()

    def _asks(self) -> None:
        Level = self.get("campaigns", "Level")
        levels = Level.objects.select_related("factor", "material", "lot").order_by(
            "factor__position"
        )
        known = {x.pk: x for x in levels}
        pairs = defaultdict(list)
        through = self.get("campaigns", "Condition").levels.through
        for condition, level in through.objects.values_list("condition_id", "level_id"):
            pairs[condition].append((known[level].factor, known[level]))
        for condition in self.get("campaigns", "Condition").objects.all():
            found = sorted(pairs[condition.pk], key=lambda p: p[0].position)
            condition.asks = _asked(found)
            condition.save(update_fields=["asks"])

    def _plates(self) -> None:
        Plate = self.get("printing", "Plate")
        made = {}
        for one in self.Print.objects.select_related("batch__recipe"):
            batch = one.batch
            key = (batch.pk, one.plate)
            if key not in made:
                settings = batch.recipe.settings if batch.recipe else {}
                made[key] = Plate.objects.create(
                    batch=batch,
                    number=one.plate + 1,
                    settings=settings,
                    printed_at=batch.printed_at,
                    used=settings if batch.printed_at else {},
                    used_from=_recipe_name(batch.recipe) if batch.printed_at else "",
                )
            one.on = made[key]
            one.save(update_fields=["on"])

    def _campaign(self, campaign) -> None:
        specimens = list(
            self.Specimen.objects.filter(campaign=campaign).select_related(
                "condition__recipe", "condition__material", "procedure"
            )
        )
        prints = {
            p.specimen_id: p
            for p in self.Print.objects.filter(specimen__campaign=campaign).select_related(
                "batch__printer", "batch__lot", "batch__recipe", "batch__by", "on"
            )
        }
        tests = {t.specimen_id: t for t in self.Test.objects.filter(specimen__campaign=campaign)}
        clocks = {
            c.specimen_id: c
            for c in self.get("testing", "Clock").objects.filter(specimen__campaign=campaign)
        }
        sizes = defaultdict(list)
        for m in self.Measurement.objects.filter(specimen__campaign=campaign).order_by("at", "id"):
            sizes[m.specimen_id].append(m)
        self.Turn.objects.bulk_create(
            _turn(self.Turn, campaign, s, tests.get(s.pk), clocks.get(s.pk)) for s in specimens
        )
        for s in specimens:
            begun = tests.get(s.pk) or clocks.get(s.pk) or sizes[s.pk]
            _make(s, prints.get(s.pk), bool(begun), tests.get(s.pk))
            plan = resolved(
                base_among({}, None, None, s.condition.recipe or campaign.recipe),
                s.condition.asks.get("settings", {}),
            )
            s.deviations = [stored(d, None) for d in making_deviations(_as_read(s), plan)]
        columns = ["made", "made_how", "made_at", "made_as", "defects", "owed", "owes"]
        columns += ["ready_at", "spent", "deviations"]
        self.Specimen.objects.bulk_update(specimens, columns)
        self._events(campaign, specimens, prints, tests, clocks, sizes)

    def _events(self, campaign, specimens, prints, tests, clocks, sizes) -> None:
        turns = dict(self.Turn.objects.filter(campaign=campaign).values_list("specimen_id", "pk"))
        rows, by = [], campaign.created_by_id
        for s in specimens:
            rows.append(self._event(s, "planned", by, campaign.created_at, "planned"))
            one, test, clock = prints.get(s.pk), tests.get(s.pk), clocks.get(s.pk)
            if one:
                rows += self._of_print(s, one)
            if clock:
                words = {"turn": turns[s.pk]}
                rows.append(self._event(s, "clock", clock.by_id, clock.started_at, "clock started", words))
            if test:
                rows += self._of_test(s, test, turns[s.pk])
        self.Event.objects.bulk_create(rows)
        for s in specimens:
            self._moments(s, sizes[s.pk], tests.get(s.pk), prints.get(s.pk))
        for model, kind in (("Curve", "curve"), ("Photo", "photo")):
            for row in self.get("testing", model).objects.filter(specimen__campaign=campaign):
                words = {"turn": turns[row.specimen_id]}
                specimen = self.Specimen(pk=row.specimen_id)
                self._event(specimen, kind, row.by_id, row.at, f"{kind} attached", words).save()

    def _event(self, specimen, kind, by, at, what, detail=None):
        return self.Event(
            specimen=specimen, kind=kind, by_id=by, at=at, what=what[:400], detail=detail or {}
        )

    def _of_print(self, s, one) -> list:
        batch, rows = one.batch, []
        words = f"put on plate {one.plate + 1} of batch {batch.number}"
        rows.append(self._event(s, "on_plate", batch.by_id, batch.created_at, words))
        if batch.printed_at:
            rows.append(
                self._event(s, "printed", batch.by_id, batch.printed_at, "printed", s.made_as)
            )
        if one.failed or one.defects or one.note:
            kind = "print_failed" if one.failed else "came_out"
            said = ", ".join([*one.defects, one.note]).strip(", ") or "failed"
            at = batch.printed_at or batch.created_at
            rows.append(self._event(s, kind, batch.by_id, at, said))
        return rows

    def _of_test(self, s, test, turn) -> list:
        found = methods()[s.procedure.method_key].outcome(test.outcome)
        words = f"{s.procedure.name}: {found.label.strip(' …') if found else test.outcome}"
        rows = [self._event(s, "tested", test.by_id, test.at, words, {"turn": turn})]
        if test.excluded:
            why = f"left out of the mean: {test.exclusion_reason}"
            rows.append(self._event(s, "left_out", test.by_id, test.recorded_at, why, {"turn": turn}))
        return rows

    def _moments(self, s, marks, test, one) -> None:
        """One moment for each time sizes were taken; the mass of a print goes to its first."""
        by_time = defaultdict(list)
        for mark in marks:
            by_time[mark.at].append(mark)
        first = None
        for at, group in by_time.items():
            name = "before test" if test and abs((test.at - at).total_seconds()) < 1 else "as made"
            keys = ", ".join(f"{m.key} {m.text}" for m in group)
            event = self._event(s, "measured", group[0].by_id, at, f"{name}: {keys}", {"moment": name})
            event.save()
            first = first or event
            for mark in group:
                mark.moment = event
                mark.save(update_fields=["moment"])
        if one and one.mass is not None:
            self._mass(s, one, first)

    def _mass(self, s, one, moment) -> None:
        at = one.batch.printed_at or one.batch.created_at
        if moment is None or self.Measurement.objects.filter(moment=moment, key="mass").exists():
            moment = self._event(
                s, "weighed", one.batch.by_id, at, f"as made: {one.mass_text}", {"moment": "as made"}
            )
            moment.save()
        if self.Measurement.objects.filter(specimen=s, key="mass").exists():
            return
        self.Measurement.objects.create(
            specimen=s,
            moment=moment,
            key="mass",
            text=one.mass_text or f"{one.mass * 1e3:.4g} g",
            value=one.mass,
            uncertainty=standard_instrument("mass").absolute,
            by_id=moment.by_id,
            at=moment.at,
        )

    def _hang(self, *names) -> None:
        """Whatever hung on a specimen hangs on its turn."""
        turns = dict(self.Turn.objects.values_list("specimen_id", "pk"))
        for name in names:
            model = self.get("testing", name)
            for specimen in model.objects.values_list("specimen_id", flat=True).distinct():
                if specimen in turns:
                    model.objects.filter(specimen_id=specimen).update(turn_id=turns[specimen])

    def _old_sizes(self) -> None:
        """Sizes that were changed or taken back belong to the moment of those that stand."""
        history = self.get("testing", "HistoricalMeasurement")
        stands = dict(self.Measurement.objects.values_list("id", "moment_id"))
        planned = dict(
            self.Event.objects.filter(kind="planned").values_list("specimen_id", "pk")
        )
        for row in history.objects.all():
            row.moment_id = stands.get(row.id) or planned.get(row.specimen_id)
            row.save(update_fields=["moment_id"])


def _asked(pairs) -> dict:
    """What the levels ask for; a level whose words mean nothing stays a name to be ticked."""
    asks = {}
    for factor, level in pairs:
        try:
            _merge(asks, requirements_of([(factor, level)]).stored)
        except InputError:
            asks.setdefault("ticks", []).append({"name": factor.name, "what": level.label})
    return asks


def _merge(asks: dict, more: dict) -> None:
    for key, value in more.items():
        if isinstance(value, list | tuple):
            asks.setdefault(key, []).extend(value)
        elif isinstance(value, dict) and key == "settings":
            asks.setdefault(key, {}).update(value)
        else:
            asks[key] = value


def _recipe_name(recipe) -> str:
    return f"{recipe.name}, version {recipe.version}" if recipe else ""


def _as_read(s):
    """A specimen as the rules of owing read it."""
    return SimpleNamespace(
        made=s.made,
        made_as=s.made_as,
        condition=SimpleNamespace(requirements=Requirements.read(s.condition.asks)),
        orientation=s.condition.asks.get("orientation") or s.procedure.orientation,
    )


def _turn(Turn, campaign, s, test, clock):
    asks = s.condition.asks
    state = "running" if clock and not test else "waiting"
    spends = False
    if test:
        method = methods()[s.procedure.method_key]
        found = method.outcome(test.outcome)
        spends = method.spends(test.outcome)
        held = found is not None and found.bound == "at_least"
        state = "void" if test.outcome == "void" else "broken" if spends else "held" if held else "read"
    told = asks.get("state") or {}
    return Turn(
        campaign=campaign,
        condition=s.condition,
        procedure=s.procedure,
        specimen=s,
        run_order=s.run_order,
        skips=s.skips,
        speed=asks.get("speed") or s.procedure.speed,
        conditioning=(told.get("what") or s.procedure.conditioning)[:120],
        state=state,
        spends=spends,
        outcome=test.outcome if test else "",
        place=test.place if test else "",
        excluded=bool(test and test.excluded),
        excluded_because=test.exclusion_reason if test else "",
        stated=bool(test and test.stated),
        tested_at=test.at if test else None,
        in_hand_of_id=s.in_hand_of_id,
        in_hand_since=s.in_hand_since,
    )


def _make(s, one, begun: bool, test) -> None:
    """Whether it is made, how, when and as what."""
    s.defects = list(one.defects) if one else []
    if one and one.failed:
        s.made = "failed"
    elif (one and one.batch.printed_at) or begun:
        s.made = "made"
    if one and one.batch.printed_at:
        batch = one.batch
        s.made_how, s.made_at = "printed", batch.printed_at
        s.made_as = {
            "plate": f"plate {one.plate + 1} of batch {batch.number}",
            "batch": batch.number,
            "printer": batch.printer.name,
            "lot": batch.lot.name if batch.lot else "",
            "colour": batch.lot.colour if batch.lot else "",
            "recipe": _recipe_name(batch.recipe),
            "settings": batch.recipe.settings if batch.recipe else {},
            "orientation": batch.orientation,
        }
    elif s.made == "made":
        s.made_how = "not noted how"
    s.owed = owed_of(s.made, Requirements.read(s.condition.asks), {})
    s.owes = "failed" if s.made == "failed" else s.owed[0]["kind"] if s.owed else ""
    s.spent = bool(test and methods()[s.procedure.method_key].spends(test.outcome))


class Migration(migrations.Migration):
    dependencies = [
        ("printing", "0002_life"),
        ("campaigns", "0006_life"),
        ("testing", "0003_life"),
        ("library", "0005_life"),
    ]
    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
