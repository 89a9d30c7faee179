"""A bag of reclaimed flakes on its way up the qualification, with a picture of them; invented and drawn."""

import io
from datetime import timedelta
from math import cos, pi, sin
from random import Random

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image, ImageDraw

from brunt_web.demonstration.workshop import Shop
from brunt_web.feedstock.actions import pictures, qualifications
from brunt_web.feedstock.models import Qualification

BAG = "Reclaimed PP from seed trays, bag 3"


def flakes(shop: Shop) -> Qualification:
    """Dried twice, sieved once; five extrusions varied too much, so it is dried again."""
    qualification = qualifications.begin(shop.workshop, shop.lead, BAG)
    at = shop.now - timedelta(days=2)
    tries = (
        ("dry", {"weighings": "0 h: 512.4 g; 3 h: 509.9; 5 h: 508.6"}, ""),
        ("dry", {"weighings": "0 h: 512.4 g; 3 h: 509.9; 5 h: 508.6; 9 h: 508.1; 11 h: 507.9"}, ""),
        ("particles", {"over": "4.2 %", "under": "3 %"}, "before the sieve"),
        ("particles", {"over": "0.6 %", "under": "3 %"}, "through the 5 mm sieve"),
        ("heat", {"heats": "190 °C: fail; 205: pass; 215: pass; 225: pass; 235: fail"}, ""),
        ("even", {"masses": "4.61; 5.30; 4.20; 5.02; 4.44", "time": "30 s"}, "it bubbled"),
    )
    for i, (gate, texts, note) in enumerate(tries):
        qualifications.record_attempt(
            qualification, shop.lead, at + timedelta(hours=3 * i), gate, texts, note
        )
    picture = pictures.add_picture(
        qualification,
        shop.volunteer,
        at + timedelta(hours=7),
        SimpleUploadedFile("flakes.png", drawn_flakes(79), "image/png"),
    )
    pictures.set_scale(picture, 5e-5, ((60.0, 763.0), (960.0, 763.0)))
    return qualification


def drawn_flakes(seed: int, wide: int = 1200, high: int = 800) -> bytes:
    """A drawn photo of flakes on paper with a ruler along its edge: PNG."""
    random = Random(seed)
    image = Image.new("RGB", (wide, high), (244, 242, 236))
    draw = ImageDraw.Draw(image)
    taken: list[tuple[float, float, float]] = []
    for _ in range(4000):
        if len(taken) >= 64:
            break
        r = random.uniform(9, 38) if random.random() < 0.93 else random.uniform(52, 64)
        x, y = random.uniform(80, wide - 80), random.uniform(80, high - 130)
        if any((x - a) ** 2 + (y - b) ** 2 < (r + c + 6) ** 2 for a, b, c in taken):
            continue
        taken.append((x, y, r))
        corners = random.randint(6, 9)
        turn, long = random.uniform(0, pi), random.uniform(1.0, 1.7)
        points = []
        for k in range(corners):
            angle = 2 * pi * k / corners
            reach = r * random.uniform(0.82, 1.0)
            u, v = reach * cos(angle), reach * sin(angle) / long
            points.append((x + u * cos(turn) - v * sin(turn), y + u * sin(turn) + v * cos(turn)))
        shade = random.randint(-12, 12)
        draw.polygon(points, fill=(60 + shade, 88 + shade, 74 + shade))
    for i in range(46):
        x = 60 + 20 * i
        draw.line(
            [(x, high - 46), (x, high - (28 if i % 5 else 18))], fill=(120, 118, 112), width=2
        )
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()
