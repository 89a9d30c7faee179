"""A film still of the demo, drawn: a bar that broke, a rule beside it, what was picked on it."""

from datetime import datetime
from io import BytesIO
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image, ImageDraw

from brunt_web.campaigns.models import Specimen
from brunt_web.testing.actions.photos import add_photo
from brunt_web.testing.actions.pictures import store_picture_readings

_FACE = [(842, 392), (1010, 384), (1082, 470), (1070, 566), (960, 604), (846, 560)]
_INK, _PAPER = "#15191c", "#e4e8e9"


def _drawn() -> SimpleUploadedFile:
    """The face of the break from above on squared paper, a rule of 60 mm below it."""
    picture = Image.new("RGB", (1600, 1000), _PAPER)
    pen = ImageDraw.Draw(picture)
    for x in range(0, 1600, 40):
        pen.line([(x, 0), (x, 1000)], fill="#d3dadd")
    for y in range(0, 1000, 40):
        pen.line([(0, y), (1600, y)], fill="#d3dadd")
    pen.polygon([(300, 380), (842, 392), *_FACE[5:], (300, 590)], fill="#8f989d")
    pen.polygon(_FACE, fill="#b9c0c4", outline=_INK)
    for i in range(7):
        y = 404 + 26 * i
        pen.line([(858, y), (1050, y + 6)], fill="#7c868c", width=3)
    pen.rectangle([200, 800, 1400, 880], fill="#f3e7c8", outline=_INK)
    for n in range(61):
        x = 200 + 20 * n
        pen.line([(x, 800), (x, 832 if n % 10 == 0 else 816)], fill=_INK, width=2)
    held = BytesIO()
    picture.save(held, "PNG")
    return SimpleUploadedFile("face.png", held.getvalue())


def photograph(specimen: Specimen, by: Any, at: datetime) -> None:
    """A photo of a break face with its scale, its outline and the angle of its edge."""
    photo = add_photo(specimen, by, at, _drawn(), "break face beside the rule")
    rows = [
        {"kind": "scale", "name": "rule", "text": "50 mm", "picks": [[200, 800], [1200, 800]]},
        {"kind": "area", "name": "break face", "text": "", "picks": [list(p) for p in _FACE]},
        {"kind": "length", "name": "longest", "text": "", "picks": [[842, 392], [1070, 566]]},
    ]
    store_picture_readings(photo, by, at, rows)
