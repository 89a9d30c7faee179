"""Numbers and drawings in templates."""

import json
import re
from collections.abc import Iterable, Mapping, Sequence
from datetime import date, datetime
from typing import Protocol, TypeVar, cast

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from brunt_core.methods.base import Method, Place
from brunt_core.observations import Observation
from brunt_core.properties import Property
from brunt_core.quantities.dimensions import DIMENSIONS
from brunt_core.quantities.rendering import (
    count_of,
    figures,
    in_unit,
    number,
    p_value,
    render,
    width_in_unit,
)
from brunt_core.specimens.parting import parted
from brunt_core.specimens.types import SpecimenType
from brunt_web.interface.ways import own_numbers, stamped, written_moment, zone_name

register = template.Library()
Item = TypeVar("Item")
Points = Iterable[tuple[float, float]]


class DrawnTest(Protocol):
    """A procedure, or whatever has its method and what is tested by it."""

    @property
    def method(self) -> Method:
        """How it is tested."""

    @property
    def geometry(self) -> SpecimenType:
        """What is tested."""

    @property
    def ranked_property(self) -> Property:
        """What it is ranked by."""

    def property_called(self, key: str) -> Property:
        """A property of its results by key."""


class Resulted(Protocol):
    """A stored result."""

    property_key: str


class Ended(Protocol):
    """A stored test, or the turn it is kept with."""

    outcome: str
    place: str


class Failed(Protocol):
    """A stored test with failure mode."""

    mode: str


@register.filter
def points(pairs: Points) -> str:
    """Points of a polygon, y turned so that up is up."""
    return " ".join(f"{x:.2f},{-y:.2f}" for x, y in pairs)


@register.filter
def fig(value: float | str | None, significant: int | str = 3) -> str:
    """A number to so many significant figures."""
    return "–" if value is None else figures(float(value), int(significant))


@register.filter
def fixed(value: float, places: int | str = 1) -> str:
    """A number with so many decimal places."""
    return number(value, f".{places}f")


@register.filter
def short(value: float) -> str:
    """A number with one decimal place, where it has any."""
    return number(round(value, 1), "g")


@register.filter
def own_text(text: object) -> str:
    """A sentence that Brunt stored, with no words of a person in it, in the workshop's decimals."""
    return own_numbers(str(text))


@register.filter
def spaced(key: str) -> str:
    """A key as words."""
    return key.replace("_", " ")


@register.filter
def shown(value: float | None, dimension_and_unit: str) -> str:
    """An SI value with its unit: ``{{ x|shown:"density" }}`` or ``"length:mm"``."""
    if value is None:
        return "unknown"
    dimension, _, unit = dimension_and_unit.partition(":")
    return render(value, dimension, unit or None)


@register.filter
def bare(value: float, dimension_and_unit: str) -> str:
    """The same without the unit."""
    dimension, _, unit = dimension_and_unit.partition(":")
    return figures(in_unit(value, dimension, unit or None))


@register.filter
def in_prop(value: float | None, prop: Property) -> str:
    """An SI value in a property's unit, three figures."""
    return "–" if value is None else figures(in_unit(value, prop.dimension, prop.unit))


@register.filter
def width_in_prop(value: float | None, prop: Property) -> str:
    """An uncertainty in a property's unit, two figures; nothing where there is none."""
    return figures(width_in_unit(value, prop.dimension, prop.unit), 2) if value else ""


@register.filter
def of(observation: Observation, prop: Property) -> str:
    """An observation in a property's unit with its sign: ``≥ 60.0``, ``45.0 – 60.0``."""
    if observation.kind == "between":
        return f"{in_prop(observation.lower, prop)} – {in_prop(observation.upper, prop)}"
    sign = {"at_least": "≥ ", "at_most": "≤ "}.get(observation.kind, "")
    return sign + in_prop(observation.anchor, prop)


@register.filter
def prop_of(result: Resulted, procedure: DrawnTest) -> Property:
    """The property of a stored result."""
    return procedure.property_called(result.property_key)


@register.filter
def ranked(results: Iterable[Resulted], procedure: DrawnTest) -> list[Resulted]:
    """The stored results of the property a procedure is ranked by."""
    key = procedure.ranked_property.key
    return [r for r in results if r.property_key == key]


@register.filter
def in_method_order(results: Iterable[Resulted], procedure: DrawnTest) -> list[Resulted]:
    """Stored results in the order the method names them."""
    order = list(dict.fromkeys(d.property for d in procedure.method.results))
    return sorted(
        results, key=lambda r: order.index(r.property_key) if r.property_key in order else 99
    )


@register.filter
def outcome_label(test: Ended, procedure: DrawnTest) -> str:
    """The outcome in the method's words."""
    found = procedure.method.outcome(test.outcome)
    return found.label.strip(" …") if found else test.outcome


@register.filter
def input_label(key: str, procedure: DrawnTest) -> str:
    """What an input is called on the screen."""
    found = next((i for i in procedure.method.inputs if i.key == key), None)
    return found.label if found else key


@register.filter
def si_unit(key: str, procedure: DrawnTest) -> str:
    """The SI unit an input is kept in; nothing for a series or a bare number."""
    found = next((i for i in procedure.method.inputs if i.key == key and i.plain), None)
    unit = DIMENSIONS[found.dimension].si if found else ""
    for plain, sign in (("**2", "²"), ("**3", "³"), ("**4", "⁴"), ("*", "·"), ("kelvin", "K")):
        unit = unit.replace(plain, sign)
    return unit


@register.filter
def mode_label(test: Failed, procedure: DrawnTest) -> str:
    """The failure mode in words."""
    found = procedure.method.mode(test.mode) if test.mode else None
    return found.label if found else ""


@register.filter
def formula(text: str) -> SafeString:
    """A formula's subscripts: ``F_max`` and ``E_0``."""
    escaped = format_html("{}", text)
    return mark_safe(re.sub(r"_(\w+)", r"<sub>\1</sub>", str(escaped)))


@register.inclusion_tag("interface/_sprite.html")
def sprite(shown: Iterable[DrawnTest]) -> dict[str, object]:
    """One symbol for each state of each specimen type, used by every drawing on the page.

    ``shown`` are turns, procedures, or whatever else has a geometry and, where it is tested, a method.
    """
    kinds: dict[str, tuple[SpecimenType, set[Place]]] = {}
    for one in shown:
        method: Method | None = getattr(getattr(one, "procedure", one), "method", None)
        places = method.places if method else ()
        kinds.setdefault(one.geometry.key, (one.geometry, set()))[1].update(
            places or (Place("middle", "middle", "", 0.5),)
        )
    return {"symbols": [_symbols(bar, places) for _, (bar, places) in sorted(kinds.items())]}


def _symbols(bar: SpecimenType, places: Iterable[Place]) -> dict[str, object]:
    pad = bar.wide * 0.12
    box = f"{-bar.wide / 2 - pad:.2f} {-bar.overall - pad:.2f} {bar.wide + 2 * pad:.2f} {bar.overall + 2 * pad:.2f}"
    halves = [
        {"key": p.key, "parts": parted(bar.outline, p.at), "gap": bar.overall * 0.035}
        for p in sorted(places, key=lambda p: p.at)
    ]
    slant = f"M{bar.wide * 0.7:.1f},{-bar.overall * 0.72:.1f} L{-bar.wide * 0.7:.1f},{-bar.overall * 0.28:.1f}"
    return {
        "key": bar.key,
        "box": box,
        "whole": bar.outline,
        "halves": halves,
        "middle": -bar.overall / 2,
        "stroke": slant,
        "ring": bar.wide * 0.62,
        "bands": _bands(bar),
        "hands": f"M0,{-bar.overall / 2 - bar.wide * 0.4:.2f} v{bar.wide * 0.4:.2f} h{bar.wide * 0.3:.2f}",
    }


def _bands(bar: SpecimenType) -> list[dict[str, float]]:
    """Bands across the outline: the mark of a treated specimen."""
    half = bar.wide / 2
    return [
        {"x": -half, "y": -bar.overall * at, "width": bar.wide, "height": bar.overall * 0.045}
        for at in (0.2, 0.5, 0.8)
    ]


@register.simple_tag
def figure(one: object, procedure: DrawnTest | None = None) -> SafeString:
    """A specimen drawn in its state, by reference to the page's symbols.

    ``one`` has a ``state``, and where they matter ``made``, ``place``, ``excluded``, ``treated``;
    ``procedure`` (or turn) has the geometry and the break places.
    """
    owner = procedure or cast(DrawnTest, one)
    kind = owner.geometry.key
    method = _method(owner)
    state = drawn_state(one)
    if state == "broken":
        place = getattr(one, "place", "") or _middle(method.places)
        style = "s-excluded" if getattr(one, "excluded", False) else "s-broken"
        return format_html('<use class="{}" href="#{}-parted-{}"/>', style, kind, place)
    extra = {
        "running": format_html('<use class="s-hands" href="#{}-clock"/>', kind),
        "held": format_html('<use class="s-ring" href="#{}-ring"/>', kind),
        "read": format_html('<use class="s-ring" href="#{}-ring"/>', kind),
        "void": format_html('<use class="s-stroke" href="#{}-stroke"/>', kind),
        "failed": format_html('<use class="s-stroke" href="#{}-stroke"/>', kind),
        "gone": format_html('<use class="s-stroke" href="#{}-stroke"/>', kind),
        "treated": format_html('<use class="s-bands" href="#{}-bands"/>', kind),
    }.get(state, "")
    return format_html('<use class="s-{}" href="#{}-whole"/>{}', state, kind, extra)


def drawn_state(one: object) -> str:
    """How a turn or a queued specimen is drawn: its test's state, else how far it is made."""
    state = getattr(one, "state", "waiting")
    if state != "waiting":
        return str(state)
    owner = getattr(one, "specimen", one)
    made = getattr(owner, "made", "made")
    if made != "made":
        return {"planned": "planned", "failed": "failed"}[made]
    return "treated" if getattr(owner, "treated", False) else "printed"


@register.filter
def middle_place(owner: object) -> str:
    """The break place drawn in a legend."""
    return _middle(_method(owner).places)


def _method(owner: object) -> Method:
    """The method of a procedure, or of a turn's procedure."""
    return cast(DrawnTest, getattr(owner, "procedure", owner)).method


def _middle(places: Sequence[Place]) -> str:
    """Where an outline parts when the place is not noted: the place nearest its middle."""
    return min(places, key=lambda p: abs(p.at - 0.5)).key if places else "middle"


@register.filter
def place_label(test: Ended, procedure: DrawnTest) -> str:
    """The break place in words."""
    place = procedure.method.place(test.place) if test.place else None
    return place.label if place else "place not noted"


@register.filter
def at(items: Sequence[Item], index: int) -> Item:
    """The item at an index."""
    return items[index]


@register.filter
def json_of(value: object) -> str:
    """A value for a script to read from an attribute."""
    return json.dumps(value, ensure_ascii=False)


@register.filter
def listed(item: Item) -> list[Item]:
    """A list of one."""
    return [item]


@register.filter
def lane(index: int) -> int:
    """The place of the index-th bracket in its column."""
    return 34 + 10 * index


@register.filter
def percent(fraction: float) -> str:
    """``0.95`` → ``95 %``."""
    return f"{number(fraction * 100, 'g')} %"


@register.filter
def get(mapping: Mapping[object, object] | None, key: object) -> object:
    """The entry of a mapping, or nothing."""
    return mapping.get(key, "") if mapping else ""


@register.filter
def get_new(mapping: Mapping[str, str], index: int) -> str:
    """The error of a new-material row."""
    return mapping.get(f"new-{index}", "")


@register.filter
def get_factor(mapping: Mapping[str, str], index: int) -> str:
    """The error of a factor row."""
    return mapping.get(f"f-{index}", "")


@register.filter
def percent2(fraction: float) -> str:
    """A fraction as per cent to two figures."""
    return f"{figures(fraction * 100, 2)} %"


@register.filter
def abs_fig(value: float) -> str:
    """A number without its sign, to three figures."""
    return figures(abs(value))


@register.filter
def plus(value: float, more: float) -> float:
    """A sum of numbers."""
    return value + more


@register.filter
def minus(value: float, less: float) -> float:
    """A difference of numbers."""
    return value - less


@register.filter
def times(value: float, factor: float) -> float:
    """A product of numbers."""
    return value * factor


@register.filter
def portrait(geometry: SpecimenType) -> str:
    """The view box of a type's outline."""
    return f"{-geometry.wide / 2 - 2:.1f} {-geometry.overall - 2:.1f} {geometry.wide + 4:.1f} {geometry.overall + 4:.1f}"


@register.filter
def hours(minutes: float) -> str:
    """Minutes as they are planned in: ``45 min``, ``4.2 h``."""
    return f"{minutes:.0f} min" if minutes < 90 else f"{number(minutes / 60, '.1f')} h"


@register.filter
def share_of(part: float, whole: float | None) -> str:
    """A part in per cent of the whole; empty where there is none."""
    return fig(part / whole * 100, 3) if whole else ""


@register.filter
def loss(before: float, after: float) -> str:
    """Mass lost in per cent."""
    return f"{number((before - after) / before * 100, '.2f')} %"


@register.filter
def counted(number: int, noun: str) -> str:
    """A number with its noun, in agreement: ``{{ n|counted:"specimen" }}``."""
    return count_of(number, noun)


@register.filter
def p_text(p: float) -> str:
    """A p-value as it is quoted: ``p 0.021``, ``p < 0.001``."""
    return p_value(p)


@register.filter
def change_percent(share: float) -> str:
    """A share in per cent with its sign, to two places."""
    return f"{number(share * 100, '+.2f')} %".replace("-", "−")


@register.filter
def signed(share: float) -> str:
    """A share as it is added in a formula: ``− 0.0190``."""
    return f"{'−' if share < 0 else '+'} {number(abs(share), '.4f')}"


@register.filter
def stamp(moment: date | datetime | None, form: str = "j M Y H:i") -> str:
    """A moment as ``<time>`` in the workshop's zone and form."""
    return stamped(moment, form)


@register.filter
def as_date(moment: date | datetime | None, form: str = "j M Y H:i") -> str:
    """The same without the element, for what may hold no element: a title, a drawing's text."""
    return written_moment(moment, form) if moment else ""


@register.simple_tag
def zone() -> str:
    """The name of the zone that times are shown in."""
    return zone_name()


@register.simple_tag(takes_context=True, name="csrf_token")
def form_token(context: template.Context) -> SafeString:
    """What every form carries: the token against forged requests, and the workshop it belongs to.

    It takes the place of Django's own tag, so that no form can be without its workshop.
    """
    token = context.get("csrf_token")
    if not token or token == "NOTPROVIDED":
        return mark_safe("")
    found = format_html('<input type="hidden" name="csrfmiddlewaretoken" value="{}">', token)
    request = context.get("request")
    if request is None or not getattr(request, "user", None) or not request.user.is_authenticated:
        return found
    return found + format_html(
        '<input type="hidden" name="in_workshop" value="{}">', request.workshop.uuid
    )
