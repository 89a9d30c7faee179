"""What the read API answers: every field with its meaning and unit, for the OpenAPI description."""

from datetime import date, datetime
from typing import Any

from ninja import Schema
from pydantic import Field


class CampaignOut(Schema):
    """A question and how it was asked."""

    id: int
    question: str
    asked: datetime
    last_tested: datetime | None = Field(None, description="when a specimen of it was tested last")
    archived: bool
    confidence: float = Field(description="family-wise confidence of its comparisons, 0 to 1")
    replicates: int
    seed: int = Field(description="seed of the test order")


class ConditionOut(Schema):
    """One combination of levels: what gets compared."""

    id: int
    name: str
    material: str
    levels: dict[str, str] = Field(description="level by name of its factor")


class MaterialOut(Schema):
    """What was bought or mixed."""

    id: int
    name: str
    family: str
    form: str
    filler: str
    density: float | None = Field(description="kg/m³")
    price_per_kg: float | None = Field(description="in the workshop's currency")


class ProcedureOut(Schema):
    """A method with its parameters fixed."""

    id: int
    name: str
    method: str
    specimen_type: str
    orientation: str
    rig: str
    speed: float | None = Field(description="m/s")
    preload: float | None = Field(description="N")
    parameters: dict[str, Any] = Field(description="as typed")
    conditioning: str
    ranked_by: str = Field(description="key of the property its results are compared by")
    comparability_key: str = Field(description="equal where results may stand in one ranking")


class PropertyOut(Schema):
    """What is measured."""

    key: str
    name: str
    symbol: str
    unit: str = Field(description="the unit shown")
    si: str = Field(description="the SI unit that lower and upper are in")
    better: str = Field(description="higher or lower")


class ResultOut(Schema):
    """One property of one test, flat: a row of a data frame."""

    specimen: str
    campaign: int
    condition: str
    condition_id: int
    material: str | None
    procedure: str
    procedure_id: int
    replicate: int
    property: str
    kind: str = Field(description="exact, at_least, at_most or between")
    lower: float | None = Field(description="SI; none for “at most”")
    upper: float | None = Field(description="SI; none for “at least”")
    value: float = Field(description="the value, or the bound there is, in the unit shown")
    unit: str
    uncertainty: float | None = Field(description="standard uncertainty, in the unit shown")
    outcome: str
    excluded: str | None = Field(description="why it does not count; none where it does")
    tested: datetime | None


class RowOut(Schema):
    """A row of the ranking: one condition, best first."""

    place: int
    condition: str
    mean: float | None
    sign: str = Field(description="≥ or ≤ where the mean is only a bound")
    low: float | None = Field(description="of the interval of the mean")
    high: float | None
    n: int
    n_bounded: int
    letters: str = Field(
        description="conditions with a letter in common do not differ significantly"
    )
    values: list[float] = Field(description="every specimen that counts; bounds at their bound")
    kinds: list[str] = Field(description="exact, at_least, at_most or between, by specimen")


class RankingOut(Schema):
    """A ranking as Compare shows it."""

    campaign: int
    procedure: str
    property: str
    unit: str
    confidence: float
    summary: list[str]
    rows: list[RowOut]


class EventOut(Schema):
    """One thing that happened to a specimen."""

    specimen: str
    at: datetime
    written_down: datetime
    kind: str
    what: str
    by: str
    taken_back: datetime | None


class TestOut(Schema):
    """One test with everything that was typed; values in SI."""

    specimen: str
    own_id: str
    campaign: int
    condition: str
    condition_id: int
    material: str
    material_id: int | None
    procedure: str
    procedure_id: int
    comparability_key: str
    orientation: str
    replicate: int
    order: int = Field(description="place in the planned order, from 1")
    state: str
    excluded: str | None
    sizes: dict[str, Any] = Field(description="m and kg, with the text typed")
    test: dict[str, Any] | None = Field(
        description="outcome and readings; none while it is waiting"
    )
    results: list[dict[str, Any]]
    deviations: list[str]


class CampaignsAsked(Schema):
    """Which campaigns."""

    q: str = Field("", max_length=120, description="words, material, ID of a specimen")
    state: str = Field("", pattern="^(open|done|away|)$", description="open, done or away")
    since: date | None = Field(None, description="asked on or after")
    until: date | None = Field(None, description="asked on or before")


class TestsAsked(Schema):
    """Which tests: by number of campaign, condition, material, procedure; by ID; by day of the test."""

    campaign: int | None = Field(None, ge=1, le=2**31)
    condition: int | None = Field(None, ge=1, le=2**31)
    material: int | None = Field(None, ge=1, le=2**31)
    procedure: int | None = Field(None, ge=1, le=2**31)
    specimen: str = Field("", max_length=20)
    since: date | None = None
    until: date | None = None


class ResultsAsked(TestsAsked):
    """The same, and which property; what is excluded only where it is asked for."""

    property: str = Field("", max_length=40)
    excluded: bool = Field(False, description="also what does not count")
