"""The bench line: one input that takes an ID, a reading or a note."""

from collections.abc import Sequence

from django.urls import reverse

from brunt_core.errors import InputError
from brunt_core.identifiers import looks_like_code, nearest_codes, read_label, tidy_code
from brunt_core.quantities import DIMENSIONS, parse
from brunt_core.quantities.rendering import render
from brunt_web.campaigns.models import Specimen
from brunt_web.people.models import Workshop

_TRIED = ("force", "length", "torque", "energy", "mass", "stress", "temperature", "time")


def read_line(workshop: Workshop, text: str, others: Sequence[Workshop] = ()) -> dict[str, str]:
    """What a typed line means: ``goto`` an address, a ``reading``, or a ``refused`` sentence.

    ``others`` are the further workshops of the person: a label of theirs that is read here is told.
    """
    text = text.strip()
    if not text:
        return {
            "kind": "refused",
            "says": "Type a specimen's ID, a reading with its unit, or “note …”.",
        }
    if text.lower().startswith("note "):
        return {
            "kind": "note",
            "value": text[5:].strip(),
            "says": "Goes with the next reading stored.",
        }
    if label := _label(workshop, text, others):
        return label
    code = tidy_code(text)
    if code and Specimen.objects.filter(workshop=workshop, code=code).exists():
        return {
            "kind": "goto",
            "url": reverse("bench-specimen", args=[code]),
            "says": f"Going to {code}.",
        }
    if own := _by_own_id(workshop, text):
        return own
    if text[0].isdigit() or text[0] in "<>≥≤.":
        return _reading(text)
    if looks_like_code(text):
        return _unknown_code(workshop, text)
    return {
        "kind": "refused",
        "says": f"“{text}” is neither an ID nor a reading. IDs look like K7-3HD, readings like 58.4 kgf.",
    }


def _label(workshop: Workshop, text: str, others: Sequence[Workshop]) -> dict[str, str] | None:
    """The specimen whose label was read: ``K7-3HD/`` and its UUID, in whichever workshop it is."""
    uuid = read_label(text)
    if uuid is None:
        return None
    found = Specimen.objects.filter(uuid=uuid, workshop__in=[workshop, *others])
    here = found.filter(workshop=workshop).first()
    if here:
        return {
            "kind": "goto",
            "url": reverse("bench-specimen", args=[here.code]),
            "says": f"Going to {here.code}.",
        }
    there = found.select_related("workshop").first()
    where = f"it belongs to the workshop “{there.workshop}”; switch to it first" if there else "it is in none of your workshops"  # fmt: skip
    return {
        "kind": "refused",
        "says": f"{text.partition('/')[0]} is not in this workshop: {where}.",
    }


def _by_own_id(workshop: Workshop, text: str) -> dict[str, str] | None:
    """The specimen its tester calls so, the latest first; several are told."""
    found = list(
        Specimen.objects.filter(workshop=workshop, own_id__iexact=" ".join(text.split()))
        .order_by("-id")
        .values_list("code", flat=True)[:4]
    )
    if not found:
        return None
    also = f" Also with this name: {', '.join(found[1:])}." if found[1:] else ""
    return {
        "kind": "goto",
        "url": reverse("specimen", args=[found[0]]),
        "says": f"“{text}” is {found[0]}.{also}",
    }


def _unknown_code(workshop: Workshop, text: str) -> dict[str, str]:
    near = nearest_codes(
        text, Specimen.objects.filter(workshop=workshop).values_list("code", flat=True)
    )
    hint = f" Did you mean {' or '.join(near)}?" if near else ""
    return {"kind": "refused", "says": f"There is no specimen {text.upper()} here.{hint}"}


def _reading(text: str) -> dict[str, str]:
    bare = text.lstrip("<>=≥≤ ")
    for dimension in _TRIED:
        try:
            parsed = parse(bare.split("..")[-1], dimension)
        except InputError:
            continue
        if parsed.assumed:
            return {
                "kind": "reading",
                "value": text,
                "says": "Goes into the field in hand, in its own unit.",
            }
        shown = render(parsed.si, dimension, DIMENSIONS[dimension].shown, 4)
        return {
            "kind": "reading",
            "value": text,
            "dimension": dimension,
            "says": f"{DIMENSIONS[dimension].name}: {shown}. {parsed.note}".strip(),
        }
    return {"kind": "refused", "says": f"“{text}” is not a reading Brunt can use."}
