"""How easily materials print: attempts a plate, read in one query."""

from collections import defaultdict

from django.db.models import Count, QuerySet

from brunt_core.printing.attempts import Ease, ease
from brunt_web.people.models import Workshop
from brunt_web.printing.models import Plate


def _attempts(plates: QuerySet[Plate]) -> dict[int, Ease]:
    """By material, from plates; those that were neither printed nor tried are excluded."""
    rows = (
        plates.filter(batch__lot__isnull=False)
        .annotate(failed=Count("attempts"))
        .values_list("batch__lot__material_id", "failed", "printed_at")
    )
    found: dict[int, list[tuple[int, bool]]] = defaultdict(list)
    for material, failed, printed in rows:
        done = printed is not None
        if failed or done:
            found[material].append((failed + done, done))
    graded = {m: ease(attempts) for m, attempts in found.items()}
    return {m: e for m, e in graded.items() if e is not None}


def ease_of(workshop: Workshop, *materials: int) -> dict[int, Ease]:
    """How easily these materials print, over all plates of the workshop; all materials where none is named."""
    plates = Plate.objects.filter(batch__campaign__workshop=workshop)
    if materials:
        plates = plates.filter(batch__lot__material__in=materials)
    return _attempts(plates)


def ease_of_condition(condition: int) -> Ease | None:
    """How easily the plates printed that a condition's specimens stood on."""
    plates = Plate.objects.filter(
        pk__in=Plate.objects.filter(prints__specimen__condition_id=condition).values("pk")
    )
    return next(iter(_attempts(plates).values()), None)
