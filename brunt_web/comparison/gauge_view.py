"""How far rigs and operators agree on one procedure: a gauge study from what was tested."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from django.db.models import Q
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from brunt_core.errors import InputError
from brunt_core.quantities.rendering import figures
from brunt_core.statistics.gauge import Gauge, gauge
from brunt_web.campaigns.models import Condition
from brunt_web.interface.scale import scale_for
from brunt_web.library.models import Procedure
from brunt_web.library.queries import procedure_of
from brunt_web.people.requests import SeatedRequest
from brunt_web.results.models import COUNTED
from brunt_web.results.reading import samples
from brunt_web.testing.models import Test

_MOST = 1400


@dataclass
class GaugeLane:
    """One rig's readings of one condition, drawn: dots, their mean, who."""

    rig: str
    dots: list[tuple[float, str]]
    mean: float
    words: str


@require_GET
def gauge_page(request: SeatedRequest, pk: int) -> HttpResponse:
    """Repeatability and reproducibility of a procedure, from the conditions that were tested on several rigs."""
    procedure = procedure_of(request.workshop, pk)
    context: dict[str, Any] = {"procedure": procedure, "prop": procedure.ranked_property}
    rows = _rows(procedure)
    context["count"] = len(rows)
    try:
        found = gauge(
            [r[0] for r in rows],
            [r[1] for r in rows],
            [r[2] for r in rows],
            hands=[r[3] for r in rows],
        )
        context |= _told(found, procedure)
    except InputError as problem:
        context["problem"] = problem.sentence
    context["parts"], context["ticks"] = _drawn(rows)
    return render(request, "comparison/gauge.html", context)


def _rows(procedure: Procedure) -> list[tuple[float, str, str, str, str]]:
    """Value, condition, rig, hand, ID of what counts and is exact; of conditions on more than one rig or hand."""
    prop = procedure.ranked_property
    where = Q(turn__procedure=procedure) & COUNTED
    found = [s.in_unit(prop) for s in samples(where, [prop.key]) if s.observation.is_exact]
    facts = dict(
        (t, (rig or "", who))
        for t, rig, who in Test.objects.filter(turn__in=[s.turn for s in found]).values_list(
            "turn_id", "turn__tested_as__rig", "by__username"
        )
    )
    names = _names({s.condition for s in found})
    rows = [
        (s.observation.anchor, names[s.condition], *facts.get(s.turn, ("", "")), s.code)
        for s in found
    ]
    seen: dict[str, set[tuple[str, str]]] = defaultdict(set)
    for row in rows:
        seen[row[1]].add((row[2], row[3]))
    return [r for r in rows if len(seen[r[1]]) > 1][:_MOST]


def _names(conditions: set[int]) -> dict[int, str]:
    rows = Condition.objects.filter(pk__in=conditions).select_related("campaign")
    return {c.pk: f"{c} ({c.campaign.question})" for c in rows}


def _told(found: Gauge, procedure: Procedure) -> dict[str, Any]:
    unit = procedure.ranked_property.unit
    names = {"rig": "between rigs", "hand": "between operators"}
    lines = [("one rig, one operator", found.repeatability)]
    lines += [(names[k], sd) for k, sd in found.parts.items()]
    lines.append(("all together", found.combined))
    widest = max((sd for _, sd in lines), default=1.0) or 1.0
    return {
        "gauge": found,
        "lines": [(name, f"{figures(sd, 2)} {unit}", sd / widest * 100) for name, sd in lines],
        "limit": f"{figures(found.limit, 2)} {unit}",
        "share": f"{found.share * 100:.0f} %",
        "excluded": [f"{names.get(k, k)}: {why}" for k, why in found.excluded.items()],
        "spends": procedure.spends,
    }


def _drawn(
    rows: list[tuple[float, str, str, str, str]],
) -> tuple[list[tuple[str, list[GaugeLane]]], Any]:
    if not rows:
        return [], []
    scale = scale_for([r[0] for r in rows], width=520, pad=20)
    by: dict[str, dict[str, list[tuple[float, str, str]]]] = defaultdict(lambda: defaultdict(list))
    for value, part, rig, hand, code in rows:
        by[part][rig or "no rig named"].append((value, hand, code))
    parts = []
    for part, lanes in list(by.items())[:24]:
        drawn = []
        for rig, own in sorted(lanes.items()):
            mean = sum(v for v, _, _ in own) / len(own)
            dots = [(scale.x(v), f"{code}: {figures(v)}, {hand}") for v, hand, code in own]
            words = f"{figures(mean)} of {len(own)}"
            drawn.append(GaugeLane(rig, dots, scale.x(mean), words))
        parts.append((part, drawn))
    return parts, scale.ticks
