"""Labels: a specimen's ID as a code a camera reads, and how they lie on A4."""

from dataclasses import dataclass

import segno

# A fixed mask: choosing among the eight takes most of the time, and any of them is read.
_MASK = 3


@dataclass(frozen=True)
class LabelSheet:
    """How labels lie on A4: across and down."""

    key: str
    across: int
    down: int

    @property
    def holds(self) -> int:
        """Labels a sheet."""
        return self.across * self.down


SHEETS = {s.key: s for s in (LabelSheet("portrait", 3, 11), LabelSheet("landscape", 4, 7))}


def code_svg(code: str) -> str:
    """A label's text as a QR code with a quarter of it to spare, as inline SVG that scales.

    Source: ISO/IEC 18004.
    """
    mask = _MASK if len(code) <= 40 else None
    made = segno.make(code, error="q", micro=False, mask=mask)
    return str(made.svg_inline(scale=1, border=2, svgclass=None, lineclass=None, omitsize=True))
