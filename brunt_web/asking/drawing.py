"""The curves of power over n, one for each question of the plan."""

from collections.abc import Sequence
from typing import Any

from brunt_core.planning.prospects import Answer
from brunt_web.interface.scale import Scale, scale_for

_STYLES = ("", "dashed", "dotted", "fine")


def power_curves(
    answers: Sequence[Answer], chosen: int, wanted: float | None
) -> dict[str, Any] | None:
    """Detectable difference over n for each question, the chosen n marked on each; drawing points.

    The scale reaches to twice what n = 4 can tell of the hardest question, so that the part that
    matters is not pressed flat by n = 2.
    """
    shown = [a for a in answers if a.curve][:4]
    if not shown:
        return None
    top = max(dict(a.curve)[4] for a in shown) * 2 * 100
    top = max(top, (wanted or 0.0) * 110)
    across = Scale(2, 20, 360, 34)
    down = scale_for([0.0, top], 150, 14, 4)

    def place(n: float, share: float) -> tuple[float, float]:
        return across.x(n), round(150 - down.x(min(share * 100, top)), 1)

    def line(answer: Answer) -> str:
        inside = [(n, d) for n, d in answer.curve if d * 100 <= top * 1.02]
        return "M" + " L".join(f"{x},{y}" for x, y in (place(n, d) for n, d in inside))

    return {
        "lines": [
            {
                "path": line(a),
                "style": _STYLES[i],
                "dot": place(chosen, a.detectable) if a.detectable and chosen <= 20 else None,
                "name": a.contrast.name,
            }
            for i, a in enumerate(shown)
        ],
        "wanted": place(2, wanted)[1] if wanted and wanted * 100 < top else None,
        "chosen": across.x(chosen) if 2 <= chosen <= 20 else None,
        "xs": [(across.x(n), n) for n in (2, 5, 10, 15, 20)],
        "ys": [(round(150 - y, 1), label) for y, label in down.ticks],
    }
