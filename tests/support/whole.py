"""What a method, a property, a view and a treatment touch: each piece that is missing, in a sentence.

CONTRIBUTING says the same in words; ``tests/guards/test_first_change.py`` follows it.
"""

from collections.abc import Iterator, Mapping
from pathlib import Path

from brunt_core.methods.base import Method
from brunt_core.plausibility.bands import has_band
from brunt_core.properties import PROPERTIES, Property
from brunt_core.treatments.kind import Kind
from brunt_web.comparison.tabs import CompareView

ROOT = Path(__file__).parents[2]
DRAWINGS = "brunt_web/testing/templates/testing/drawings"


def missing_of_method(
    method: Method, root: Path = ROOT, properties: Mapping[str, Property] = PROPERTIES
) -> Iterator[str]:
    """What a test method still needs."""
    page = root / "docs/methods" / f"{method.key}.md"
    if not (root / DRAWINGS / f"{method.drawing}.svg").exists():
        yield f"{method.key}: its drawing at the bench is missing: {DRAWINGS}/{method.drawing}.svg."
    if not page.exists():
        yield f"{method.key}: its page is missing: docs/methods/{method.key}.md."
    checks = "".join(p.read_text() for p in (root / "tests/reference").glob("*.py"))
    if f'"{method.key}"' not in checks:
        yield f"{method.key}: no test in tests/reference holds its result against an outside number."
    text = page.read_text() if page.exists() else ""
    for result in method.results:
        if text and result.formula not in text:
            yield f"{method.key}: docs/methods/{method.key}.md does not show the formula “{result.formula}”."
        if result.property not in properties:
            yield f"{method.key}: the property “{result.property}” is missing in brunt_core/properties.py."
        else:
            yield from missing_of_property(properties[result.property])
    for spec in method.inputs:
        if text and not any(w in text for w in (spec.key, spec.label, spec.label.lower())):
            yield f"{method.key}: docs/methods/{method.key}.md does not say what “{spec.label}” is."


def missing_of_property(prop: Property) -> Iterator[str]:
    """What a property still needs."""
    if not prop.ordinal and not has_band(prop.key):
        yield f"{prop.key}: its usual range is missing in brunt_core/plausibility/bands.py."


def missing_of_view(key: str, views: Mapping[str, CompareView], root: Path = ROOT) -> Iterator[str]:
    """What a view of Compare still needs."""
    view = views[key]
    if [v.letter for v in views.values()].count(view.letter) > 1:
        yield f"{key}: its key “{view.letter}” opens another view too."
    try:
        view.answer  # noqa: B018
    except ImportError:
        yield f"{key}: brunt_web/comparison/pages has no {view.page}."
    guide = (root / "docs/guide/compare.md").read_text()
    if view.name.lower() not in guide.lower():
        yield f"{key}: docs/guide/compare.md does not say what “{view.name}” shows."


def missing_of_treatment(kind: Kind) -> Iterator[str]:
    """What a kind of treatment still needs."""
    if not kind.cautions:
        yield f"{kind.key}: it has no cautions."
    named = {p.key for p in kind.parameters}
    for step in kind.steps:
        for parameter in (step.minutes, step.heat):
            if isinstance(parameter, str) and parameter and parameter not in named:
                yield f"{kind.key}: its step “{step.label}” lasts or heats by “{parameter}”, which is no parameter of it."
