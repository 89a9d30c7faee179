"""Views of a heavy campaign beside what PostgreSQL itself takes, and with a million results of others."""

from collections.abc import Callable, Iterator
from typing import Any

from django.db import connection
from django.db.models import Max, Min
from django.test import Client
from django.utils import timezone

from brunt_web.campaigns.actions.plan_campaign import plan_campaign
from brunt_web.campaigns.drafts import of_materials
from brunt_web.campaigns.models import Campaign, Specimen, Turn
from brunt_web.library.models import Material, Procedure
from brunt_web.people.models import Workshop
from brunt_web.results.models import Result

Case = tuple[str, Callable[[], object], Callable[[], str]]
CONDITIONS, REPLICATES = 24, 20


def cases(user: Any, client: Client) -> Iterator[Case]:
    """The measure is the fetch of the rows shown; then each view; then the same with 10⁴ and 10⁶ others."""
    one = heavy(user)
    yield (
        "PostgreSQL: fetch the rows of the heavy campaign (views)",
        lambda: fetch(one),
        lambda: "the measure",
    )
    yield from _views(client, one, "")
    for others in (10_000, 1_000_000):
        crowd(one, others)
        yield from _views(client, one, f", with {others:,} other results")


def _views(client: Client, one: Campaign, words: str) -> Iterator[Case]:
    for name in ("", "profile/", "summary/"):
        address = f"/campaigns/{one.pk}/compare/{name}"

        def run(address: str = address) -> None:
            assert client.get(address).status_code == 200

        yield f"views: {name.strip('/') or 'ranking_chart'} of 24 × 3 × 20{words}", run, lambda: ""


def heavy(user: Any) -> Campaign:
    """24 conditions, three procedures, 20 specimens each, every one tested."""
    shop = Workshop.objects.get(seats__user=user)
    materials = [
        Material.objects.create(workshop=shop, name=f"Heavy lot {i}", family="pla")
        for i in range(CONDITIONS)
    ]
    names = ("Tension, flat", "Layer adhesion, upright", "Flexure, flat")
    procedures = list(Procedure.objects.filter(workshop=shop, name__in=names))[:3]
    assert len(procedures) == 3, names
    draft = of_materials("Heavy", materials, procedures, REPLICATES, 4)
    one = plan_campaign(shop, user, draft)
    Turn.objects.filter(campaign=one).update(state="broken", outcome="broke")
    Specimen.objects.filter(campaign=one).update(made="made", spent=True)
    rows = []
    for i, t in enumerate(Turn.objects.filter(campaign=one).select_related("procedure")):
        value = 5e7 + 1e6 * (i % 24) + 3e5 * (i * 7919 % 13)
        prop = t.procedure.ranked_property.key
        rows.append(
            Result(
                turn=t, property_key=prop, lower=value, upper=value, uncertainty=1e5, rounding=1e4
            )
        )
    Result.objects.bulk_create(rows)
    _analyse()
    return one


def fetch(one: Campaign) -> None:
    """What PostgreSQL and its driver take for the rows that a view shows, and nothing more."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT t.id, s.code, t.condition_id, t.procedure_id, r.property_key, r.lower, r.upper, "
            "r.uncertainty, r.rounding, t.outcome, t.excluded FROM results_result r "
            "JOIN campaigns_turn t ON t.id = r.turn_id JOIN campaigns_specimen s ON s.id = t.specimen_id "
            "WHERE t.campaign_id = %s ORDER BY t.run_order",
            [one.pk],
        )
        assert len(cursor.fetchall()) == CONDITIONS * 3 * REPLICATES


def copy_of(one: Campaign, question: str) -> Campaign:
    """The same campaign once more, with specimens and turns of its own, copied in the database."""
    other = Campaign.objects.get(pk=one.pk)
    other.pk, other.question = None, question
    other.save()
    _copy("campaigns_condition", {"campaign_id": str(other.pk)}, f"campaign_id = {one.pk}")
    pairs = {c.position: c.pk for c in other.conditions.all()}
    there = "(CASE x.condition_id " + " ".join(f"WHEN {c.pk} THEN {pairs[c.position]}" for c in one.conditions.all()) + " END)"  # fmt: skip
    free = _first_free() - (one.specimens.aggregate(first=Min("pk"))["first"] or 0)
    code = "'W' || lpad(to_hex({} + {}.id), 6, '0')"
    given = {
        "campaign_id": str(other.pk),
        "condition_id": there,
        "code": code.format(free, "x"),
    }
    _copy("campaigns_specimen", given, f"campaign_id = {one.pk}")
    _copy_turns(
        other,
        f"JOIN campaigns_specimen o ON o.id = t.specimen_id JOIN campaigns_specimen s ON s.campaign_id = {other.pk} "
        f"AND s.code = {code.format(free, 'o')} WHERE t.campaign_id = {one.pk}",
    )
    _analyse()
    return other


def _first_free() -> int:
    """The number after the last that a copied specimen has for its ID."""
    copied = Specimen.objects.filter(code__regex="^W[0-9a-f]{6}$")
    last = copied.aggregate(last=Max("code"))["last"]
    return int(last[1:], 16) + 1 if last else 0


def crowd(one: Campaign, wanted: int) -> None:
    """Results of other campaigns, copied in the database until there are so many."""
    other = Campaign.objects.filter(question="The crowd").first()
    if other is None:
        other = Campaign.objects.get(pk=one.pk)
        other.pk, other.question, other.archived_at = None, "The crowd", timezone.now()
        other.save()
        _copy("campaigns_condition", {"campaign_id": str(other.pk)}, f"campaign_id = {one.pk}")
    have = Result.objects.filter(turn__campaign=other).count()
    turns = (wanted - have) // 10
    first = Turn.objects.filter(campaign=one).order_by("pk")[0]
    start = Specimen.objects.filter(campaign=other).count()
    theirs = ",".join(str(c.pk) for c in other.conditions.all())
    given = {
        "campaign_id": str(other.pk),
        "condition_id": f"(array[{theirs}])[1 + ({start} + n) % {CONDITIONS}]",
        "code": f"'Z' || lpad(to_hex(n + {start}), 5, '0')",
        "replicate": f"({start} + n) / {CONDITIONS} + 1",
    }
    _copy("campaigns_specimen", given, f"id = {first.specimen_id}", turns)
    _copy_turns(
        other,
        f", campaigns_specimen s WHERE t.id = {first.pk} AND s.campaign_id = {other.pk} "
        "AND NOT EXISTS (SELECT 1 FROM campaigns_turn u WHERE u.specimen_id = s.id)",
    )
    with connection.cursor() as cursor:
        columns = [c for c in _columns("results_result") if c != "id"]
        given = {"turn_id": "t.id", "property_key": "'property_' || n"}
        picked = ", ".join(given.get(c, f'r."{c}"') for c in columns)
        cursor.execute(
            f"INSERT INTO results_result ({_quoted(columns)}) SELECT {picked} FROM results_result r, "
            f"campaigns_turn t, generate_series(1, 10) n WHERE r.turn_id = {first.pk} AND t.campaign_id = {other.pk} "
            "AND NOT EXISTS (SELECT 1 FROM results_result q WHERE q.turn_id = t.id)"
        )
    _analyse()


def _copy_turns(other: Campaign, beside: str) -> None:
    """Turns of a campaign's specimens ``s``, as turns ``t`` that are there: what is joined, and which."""
    columns = [c for c in _columns("campaigns_turn") if c != "id"]
    given = {"campaign_id": str(other.pk), "condition_id": "s.condition_id", "specimen_id": "s.id"}
    picked = ", ".join(given.get(c, f't."{c}"') for c in columns)
    with connection.cursor() as cursor:
        cursor.execute(
            f"INSERT INTO campaigns_turn ({_quoted(columns)}) SELECT {picked} FROM campaigns_turn t {beside}"
        )


def _copy(table: str, given: dict[str, str], where: str, times: int = 1) -> None:
    columns = [c for c in _columns(table) if c not in ("id", "uuid")]
    picked = ", ".join(given.get(c, f'x."{c}"') for c in columns)
    with connection.cursor() as cursor:
        cursor.execute(
            f"INSERT INTO {table} ({_quoted(columns)}) SELECT {picked} FROM "
            f"(SELECT * FROM {table} WHERE {where}) x, generate_series(1, {times}) n"
        )


def _columns(table: str) -> list[str]:
    with connection.cursor() as cursor:
        return [c.name for c in connection.introspection.get_table_description(cursor, table)]


def _quoted(columns: list[str]) -> str:
    return ", ".join(f'"{c}"' for c in columns)


def _analyse() -> None:
    with connection.cursor() as cursor:
        # Vacuumed at once where that can be, so that it is not done beside what is measured.
        how = "ANALYZE" if connection.in_atomic_block else "VACUUM ANALYZE"
        cursor.execute(f"{how} campaigns_specimen, campaigns_turn, results_result")
