"""What the page of a custom part sends."""

from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile
from django.http import QueryDict

from brunt_core.errors import InputError
from brunt_core.parts.reading import MOST_BYTES, UNITS
from brunt_core.quantities import in_unit
from brunt_core.specimens.types import ORIENTATIONS
from brunt_web.interface.typed import NameField, QuantityField, TypedField
from brunt_web.library.actions.parts import MOST_PLACES, Marks

DIRECTIONS = {
    "0 0 -1": "down",
    "0 0 1": "up",
    "0 1 0": "along its length, to the right",
    "0 -1 0": "along its length, to the left",
    "1 0 0": "across, up in the view from above",
    "-1 0 0": "across, down in the view from above",
}
AXES = {"": "none", "y": "across its length", "x": "across its width", "z": "level with the plate"}


class PartForm(TypedField):
    """A mesh file as a custom part."""

    name = NameField("Give the part a name.", label="Name")
    unit = forms.ChoiceField(
        label="Unit of an STL",
        required=False,
        choices=[(u, u) for u in UNITS],
        help_text="a 3MF says its own",
    )
    file = forms.FileField(
        label="STL or 3MF",
        allow_empty_file=True,
        error_messages={"required": "Choose an STL or a 3MF file."},
        widget=forms.ClearableFileInput(attrs={"accept": ".stl,.3mf"}),
    )

    def clean_file(self) -> UploadedFile:
        """The file, if it is not too large to read."""
        file: UploadedFile = self.cleaned_data["file"]
        if (file.size or 0) > MOST_BYTES:
            raise forms.ValidationError(f"The file has more than {MOST_BYTES // 1_000_000} MB.")
        return file


class LieForm(TypedField):
    """A face to rest on."""

    orientation = forms.ChoiceField(choices=[(o, o) for o in ORIENTATIONS])
    face = forms.IntegerField(
        min_value=0,
        max_value=20,
        error_messages={"required": "Choose a face.", "invalid": "Choose a face."},
    )


class CoordinateField(QuantityField):
    """A coordinate on the part, cleaned to mm; it may be negative."""

    def __init__(self, label: str) -> None:
        super().__init__("length", "mm", label=label, max_length=40)

    def clean(self, value: Any) -> float | None:
        """Millimetres, or ``None`` for an empty field."""
        text = str(value or "").strip().replace("−", "-")
        sign = -1 if text.startswith("-") else 1
        found = super().clean(text.removeprefix("-"))
        return None if found is None else sign * in_unit(found, "length", "mm")


class PlaceForm(TypedField):
    """A place it may fail at."""

    name = NameField("", most=40, required=False, label="Place")
    x = CoordinateField("x")
    y = CoordinateField("y")
    z = CoordinateField("z")

    def clean(self) -> dict[str, Any]:
        """A place has a name and is somewhere."""
        told = super().clean() or {}
        point = [told.get(k) for k in "xyz"]
        if told.get("name") and sum(p is not None for p in point) < 2:
            self.add_error("name", "Set its position: press on a view, or type two coordinates.")
        if not told.get("name") and any(p is not None for p in point):
            self.add_error("name", "Give the place a name.")
        return told


PlaceForms = forms.formset_factory(PlaceForm, extra=1, can_delete=True, max_num=MOST_PLACES)


class MarksForm(TypedField):
    """Load, section of interest, fixtures; the places are forms of their own."""

    load_x, load_y, load_z = CoordinateField("x"), CoordinateField("y"), CoordinateField("z")
    direction = forms.ChoiceField(
        label="It pulls", required=False, choices=[*DIRECTIONS.items(), ("own", "as typed below")]
    )
    own_direction = forms.CharField(
        label="Its direction", required=False, max_length=60, help_text="x, y, z: 0, 1, -1"
    )
    section_axis = forms.ChoiceField(label="Section", required=False, choices=list(AXES.items()))
    section_at = CoordinateField("at, mm")
    fixtures = forms.CharField(
        label="Fixtures it carries",
        required=False,
        max_length=200,
        help_text="M6 bolt, two washers, 2 N·m",
    )

    def clean(self) -> dict[str, Any]:
        """A load is somewhere and goes somewhere; a section is at a place."""
        told = super().clean() or {}
        point = [told.get(f"load_{k}") for k in "xyz"]
        if sum(p is not None for p in point) == 1:
            self.add_error("load_x", "Give two of the three coordinates at least.")
        if told.get("section_axis") and told.get("section_at") is None:
            self.add_error("section_at", "Set the position of the section.")
        if told.get("direction") == "own":
            try:
                told["vector"] = _vector(told.get("own_direction", ""))
            except InputError as error:
                self.add_error("own_direction", error.sentence)
        return told

    def marks(self, places: list[tuple[str, tuple[float | None, ...]]]) -> Marks:
        """What is marked; of a valid form."""
        told = self.cleaned_data
        point = tuple(told[f"load_{k}"] for k in "xyz")
        vector = told.get("vector") or _vector(told["direction"] or "0 0 -1")
        return Marks(
            load=point if any(p is not None for p in point) else None,
            direction=vector,
            axis=told["section_axis"],
            at=told["section_at"],
            places=places,
            fixtures=told["fixtures"],
        )


def _vector(text: str) -> tuple[float, float, float]:
    """Three numbers that are not all nothing. Raises :class:`InputError`."""
    try:
        x, y, z = (
            float(p.replace("−", "-")) for p in text.replace(";", " ").replace(",", " ").split()
        )
    except ValueError:
        raise InputError("A direction is three numbers, like 0, 1, -1.") from None
    if not 0 < x * x + y * y + z * z < 1e12:
        raise InputError("A direction is three numbers that are not all zero.")
    return x, y, z


def initial_marks(facts: dict[str, Any]) -> dict[str, Any]:
    """A part's marks as the form shows them."""
    load, section = facts.get("load") or {}, facts.get("section") or {}
    point, vector = load.get("point", ("", "", "")), load.get("direction", (0, 0, -1))
    words = " ".join(f"{v:g}" for v in vector)
    return {
        **{f"load_{k}": _text(c) for k, c in zip("xyz", point, strict=True)},
        "direction": words if words in DIRECTIONS else "own",
        "own_direction": "" if words in DIRECTIONS else ", ".join(f"{v:.4g}" for v in vector),
        "section_axis": section.get("axis", ""),
        "section_at": _text(section.get("at", "")),
        "fixtures": facts.get("fixtures", ""),
    }


def initial_places(facts: dict[str, Any]) -> list[dict[str, Any]]:
    """Its named places as their forms show them."""
    return [
        {"name": p["label"], **{k: _text(c) for k, c in zip("xyz", p["point"], strict=True)}}
        for p in facts.get("places", [])
    ]


def _text(value: float | str) -> str:
    return value if isinstance(value, str) else f"{value:.4g}"


def places_of(forms_: Any) -> list[tuple[str, tuple[float | None, ...]]]:
    """The places of a valid formset, those struck out excluded."""
    return [
        (f.cleaned_data["name"], tuple(f.cleaned_data[k] for k in "xyz"))
        for f in forms_
        if f.cleaned_data.get("name") and not f.cleaned_data.get("DELETE")
    ]


def bound(data: QueryDict | None, facts: dict[str, Any]) -> tuple[MarksForm, Any]:
    """Both forms, filled with what is kept or what was sent."""
    marks = MarksForm(data, initial=initial_marks(facts), auto_id="m-%s")
    return marks, PlaceForms(data, initial=initial_places(facts), prefix="place", auto_id="p-%s")
