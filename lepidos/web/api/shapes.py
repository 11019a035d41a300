"""What the API's stations share: units in every name, SI or the customary centimetre.

The same path as the pages, for scripts. Every write needs an `Idempotency-Key` header: the same key
again changes nothing and answers as the first time did.
"""

from datetime import datetime
from typing import Annotated

from fastapi import Header, Query
from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, PlainSerializer, WithJsonSchema

from lepidos.core.estimate import Estimate
from lepidos.core.limits import MAX_FISH_KG, MIN_FISH_KG
from lepidos.stations.base.context import Receipt

Text = Annotated[str, Field(max_length=200)]
Key = Annotated[str, Header(alias="Idempotency-Key", min_length=8, max_length=64)]
Page = Annotated[int, Query(ge=1, le=100_000)]
Mass = Annotated[FiniteFloat, Field(ge=MIN_FISH_KG, le=MAX_FISH_KG)]
Instant = Annotated[
    datetime,
    PlainSerializer(datetime.isoformat, return_type=str, when_used="json"),
    WithJsonSchema({"type": "string", "format": "date-time"}, mode="serialization"),
]


class In(BaseModel):
    """Base of what comes in: an unknown field is an error and not ignored."""

    model_config = ConfigDict(extra="forbid")


class Out(BaseModel):
    """Base of what goes out: what a view hands over and no field takes is a mistake of ours.

    Where all fields are named as what a station shows, `model_validate` takes them from it.
    """

    model_config = ConfigDict(extra="forbid", frozen=True, from_attributes=True)


class DoneOut(Out):
    """What was done. `repeated`: this key had done it before, and nothing was done again."""

    kind: str
    id: str
    sentence: str
    question: str = ""
    repeated: bool = False


def done_out(done: Receipt) -> DoneOut:
    """What a use case did, as the API says it."""
    return DoneOut(
        kind=done.subject_kind,
        id=done.subject_id,
        sentence=done.sentence,
        question=done.question,
        repeated=done.repeated,
    )


class EstimateOut(Out):
    """An estimate with its interval, formula and source."""

    value: float
    low: float
    high: float
    level: float
    unit: str
    formula: str
    source: str
    notes: list[str]


def estimate_out(estimate: Estimate) -> EstimateOut:
    """An estimate opened up."""
    return EstimateOut.model_validate(estimate)
