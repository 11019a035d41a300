"""The API's shapes: units in every name, SI or the customary centimetre."""

from datetime import date, datetime
from typing import Annotated, Any, Literal

from fastapi import Header, Query
from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, FiniteFloat

from lepidos.core.fish.species import LengthType
from lepidos.core.limits import LEAST_FISH_KG, MOST_FISH_KG
from lepidos.stations.base.context import Receipt

Text = Annotated[str, Field(max_length=200)]
Key = Annotated[str, Header(alias="Idempotency-Key", min_length=8, max_length=64)]
Page = Annotated[int, Query(ge=1, le=100_000)]
Mass = Annotated[FiniteFloat, Field(ge=LEAST_FISH_KG, le=MOST_FISH_KG)]


class In(BaseModel):
    """Base of what comes in: an unknown field is an error and not ignored."""

    model_config = ConfigDict(extra="forbid")


class TripIn(In):
    """A trip to start."""

    name: Text = ""
    kind: Literal["boat", "kayak", "pier", "beach", "shore", "bought"] = "boat"
    harbour: Text = ""
    on_date: date
    people: list[Text] = []
    parties: list[Text] = []
    sea_c: FiniteFloat | None = None
    air_c: FiniteFloat | None = None
    ice_kg: FiniteFloat | None = None


class FishIn(In):
    """A fish to land. Without `weight_kg` it is estimated from the length.

    `called`: a fish that the guide lacks, by this name or "" for none, of which `species` is the
    kind nearest to it.
    """

    species: Text
    length_cm: Annotated[FiniteFloat, Field(gt=0, le=2000)]
    length_type: LengthType = "total"
    weight_kg: Mass | None = None
    weighed_as: Literal["whole", "gutted"] = "whole"
    party_id: Text = ""
    caught_by: Text = ""
    landed_at: datetime | None = None
    hooked_at: datetime | None = None
    states: list[Text] = []
    skin: Literal["on", "off"] = "on"
    code: Annotated[str, Field(max_length=12)] = ""
    called: Annotated[str, Field(max_length=30)] | None = None


class WeighingIn(In):
    """A piece to book. Without `weight_kg` it is taken from the scale."""

    piece: Text
    side: Literal["", "A", "B"] = ""
    weight_kg: Mass | None = None


class StateIn(In):
    """A state to note."""

    state: Text


class CoreIn(In):
    """A core temperature. Without `celsius` it is taken from the probe."""

    celsius: FiniteFloat | None = None


class LookIn(In):
    """Demerit points by mark."""

    points: dict[Text, Annotated[int, Field(ge=0, le=3)]]


class BoardIn(In):
    """A cutter who takes a board."""

    cutter: Text


class StartIn(In):
    """The board that a fish is taken to; empty: the first."""

    board_id: Text = ""


class PlaceInRowIn(In):
    """Where a fish is put by hand: beside a neighbour, or first at a board."""

    neighbour_id: Text = ""
    after: bool = False
    board_id: Text = ""


class IceIn(In):
    """Ice that is seen aboard now."""

    seen_kg: Annotated[FiniteFloat, Field(ge=0, le=5000)]


class CardIn(In):
    """A rule card; what is left out the card does not speak of. Seasons as [month, day]."""

    species: Text
    area: Text
    source: Text
    checked_on: date
    season_from: tuple[int, int] | None = None
    season_to: tuple[int, int] | None = None
    length_type: LengthType = "total"
    min_cm: FiniteFloat | None = None
    max_cm: FiniteFloat | None = None
    per_person: int | None = None
    per_boat: int | None = None
    possession: int | None = None
    fillet_at_sea: Literal["", "no", "yes"] = ""
    skin_patch: bool = False
    keep_carcass: bool = False
    note: Annotated[str, Field(max_length=600)] = ""


class TogetherIn(In):
    """Pieces that lay on the scale together, as slots such as "collar.A"."""

    slots: list[Text]
    weight_kg: Mass | None = None


class SpotIn(In):
    """Where something was cut out: the piece, or the place on the drawing in parts of total length.

    What it weighed, or how wide it was: then the weight is worked out.
    """

    piece: Text = ""
    side: Literal["", "A", "B"] = ""
    x: FiniteFloat | None = None
    y: FiniteFloat | None = None
    across_m: FiniteFloat | None = None
    lost_kg: FiniteFloat | None = None


class SightIn(In):
    """Something that was seen, as in `guide/seen.toml`."""

    what: Text
    number: Annotated[int, Field(ge=1, le=999)] = 1
    place: Text = ""
    spot: SpotIn | None = None


class FateIn(In):
    """Where a piece goes, as in `guide/fates.toml`."""

    piece: Text
    fate: Text


class CorrectionIn(In):
    """The weight that a weighing should have had."""

    weighing_id: Text
    weight_kg: Mass


class StepIn(In):
    """A step to tick."""

    step: Text


class WishIn(In):
    """How to cut. What is left out stays as it was said before; "" takes it back.

    `ways` as "head:off", `pieces` as "belly.A:smoke"; `keeps` and `tools` are whole lists.
    """

    purpose: Text | None = None
    skin: Literal["", "on", "off"] | None = None
    ways: list[Text] = []
    tools: list[Text] | None = None
    pieces: list[Text] = []
    keeps: list[Text] | None = None


class PartyWishIn(WishIn):
    """A party's wish; of all its fish, or of a species."""

    species: Text = ""


class CrewWishIn(PartyWishIn):
    """The crew's word on all fish, those of a species, or of a size of it."""

    size: Literal["", "small", "usual", "large"] = ""


class BagIn(In):
    """A bag to seal: the bag `index` of the plan that these marks give."""

    index: Annotated[int, Field(ge=0, le=100)] = 0
    serving_kg: Annotated[FiniteFloat, Field(ge=0.02, le=200)] | None = None
    per_bag: Annotated[int, Field(ge=1, le=12)] = 2
    tail_apart: bool = True
    length_cm: Annotated[FiniteFloat, Field(ge=0, le=500)] = 0
    also: list[Text] = []
    weight_kg: Mass | None = None


class PartsIn(In):
    """A bag of the plan to seal: its parts, as the plan names them."""

    parts: Annotated[list[Text], Field(min_length=1, max_length=60)]
    weight_kg: Mass | None = None


class PlaceIn(In):
    """A freezer place."""

    name: Text


class PutIn(In):
    """A bag's new place."""

    place_id: Text


class OutIn(In):
    """Why a bag is taken out."""

    why: Text = "to eat"
    note: Text = ""


class PlaceLikeIn(In):
    """What a place is like; `litres` 0: nobody knows, `within_id`: what it is a drawer of."""

    celsius: FiniteFloat
    litres: FiniteFloat = 0
    cooling: Text = "still"
    kind: Text = "freezer"
    within_id: Text = ""
    kg_a_day: FiniteFloat = 0


class ReadingIn(In):
    """One reading of a sensor."""

    at: AwareDatetime
    celsius: FiniteFloat


class ReadingsIn(In):
    """Readings of one sensor, rising in time."""

    sensor: Text = "sensor"
    readings: Annotated[list[ReadingIn], Field(min_length=1, max_length=20_000)]


class CountIn(In):
    """Codes that were seen in a place."""

    codes: Annotated[list[Text], Field(max_length=5000)]


class MealIn(In):
    """A meal from the freezer."""

    on: date
    people: Annotated[int, Field(ge=1, le=60)]
    purpose: Text = ""
    thaw: Text = "refrigerator"
    codes: Annotated[list[Text], Field(min_length=1, max_length=60)]


class UndoIn(In):
    """What to undo. Places, boards, parties' times, rule cards, and an own fish that was
    thrown away cannot be: change them instead."""

    kind: Literal[
        "fish", "fact", "reading", "look", "ice", "weighing", "sight", "fate", "bag", "move",
        "wish",
    ]  # fmt: skip
    id: Text


class ImportIn(In):
    """A file of fish as text; `accept` lands its good rows, `again` those of a known file, too."""

    text: Annotated[str, Field(max_length=1_000_000)]
    accept: bool = False
    again: bool = False


class LoadIn(In):
    """What to lay on the stand-in scale's pan."""

    load_kg: Annotated[FiniteFloat, Field(ge=0, le=60)]


class DoneOut(BaseModel):
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


class EstimateOut(BaseModel):
    """An estimate with its interval, formula and source."""

    value: float
    low: float
    high: float
    level: float
    unit: str
    formula: str
    source: str
    notes: list[str]


Json = dict[str, Any]
