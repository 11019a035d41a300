"""The API's shapes: units in every name, SI or the customary centimetre."""

from datetime import date, datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat

Text = Annotated[str, Field(max_length=200)]
Mass = Annotated[FiniteFloat, Field(gt=0, le=1000)]


class In(BaseModel):
    """Base of what comes in: an unknown field is an error and not ignored."""

    model_config = ConfigDict(extra="forbid")


class TripIn(In):
    """A trip to start."""

    name: Text
    kind: Literal["boat", "shore"] = "boat"
    harbour: Text
    on_date: date
    people: list[Text] = []
    parties: list[Text] = []
    sea_c: FiniteFloat | None = None
    air_c: FiniteFloat | None = None
    ice_kg: FiniteFloat | None = None


class FishIn(In):
    """A fish to land. Without `weight_kg` it is estimated from the length."""

    species: Text
    length_cm: Annotated[FiniteFloat, Field(gt=0, le=2000)]
    length_type: Literal["total", "fork"] = "total"
    weight_kg: Mass | None = None
    weighed_as: Literal["whole", "gutted"] = "whole"
    party_id: Text = ""
    caught_by: Text = ""
    landed_at: datetime | None = None
    states: list[Literal["bled", "gutted", "iced"]] = []
    skin: Literal["on", "off"] = "on"
    code: Annotated[str, Field(max_length=12)] = ""


class WeighingIn(In):
    """A piece to book. Without `weight_kg` it is taken from the scale."""

    piece: Text
    side: Literal["", "A", "B"] = ""
    weight_kg: Mass | None = None


class StateIn(In):
    """A state to note."""

    state: Literal["bled", "gutted", "iced"]


class StepIn(In):
    """A step to tick."""

    step: Text


class BagIn(In):
    """A bag to seal: the bag `index` of the plan that these marks give."""

    index: Annotated[int, Field(ge=0, le=100)] = 0
    serving_kg: Annotated[FiniteFloat, Field(ge=0.02, le=5)] = 0.2
    per_bag: Annotated[int, Field(ge=1, le=12)] = 2
    tail_apart: bool = True
    length_cm: Annotated[FiniteFloat, Field(ge=0, le=500)] = 0
    also: list[Text] = []
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


class UndoIn(In):
    """What to take back."""

    kind: Literal["fish", "fact", "weighing", "bag", "move"]
    id: Text


class ImportIn(In):
    """A file of fish as text; `accept` lands its good rows."""

    text: Annotated[str, Field(max_length=1_000_000)]
    accept: bool = False


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
