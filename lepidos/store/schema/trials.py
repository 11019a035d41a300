"""Trials of two ways of cutting, blades that were sharpened, meat scraped off frames."""

from typing import NamedTuple

from peewee import FloatField, ForeignKeyField, IntegerField, TextField

from lepidos.store.schema.base import Instant, Row
from lepidos.store.schema.fish import FishTable
from lepidos.store.schema.kinds import Few, Key, Moment, Name, PerTrial, PieceKg, Side, Word


class Trial(NamedTuple):
    """A trial of two ways on the sides of `fish` fish of a species ("": any)."""

    id: Key
    species: Word
    way_x: Name
    way_y: Name
    fish: PerTrial
    at: Moment


class TrialTable(Row):
    record = Trial

    species = TextField()
    way_x = TextField()
    way_y = TextField()
    fish = IntegerField()
    at = Instant()

    class Meta:
        table_name = "trial"


class TrialFish(NamedTuple):
    """A fish of a trial: its number, the side that is cut by way X, and the side cut first."""

    id: Key
    trial_id: Key
    fish_id: Key
    number: Few
    x_side: Side
    first_side: Side
    at: Moment


class TrialFishTable(Row):
    record = TrialFish

    trial = ForeignKeyField(TrialTable, lazy_load=False)
    fish = ForeignKeyField(FishTable, lazy_load=False)
    number = IntegerField()
    x_side = TextField()
    first_side = TextField()
    at = Instant()

    class Meta:
        table_name = "trial_fish"


class Sharpening(NamedTuple):
    """A cutter's blade was sharpened, or another one (`blade`) taken up."""

    id: Key
    cutter: Name
    blade: Name
    at: Moment


class SharpeningTable(Row):
    record = Sharpening

    cutter = TextField()
    blade = TextField(default="")
    at = Instant()

    class Meta:
        table_name = "sharpening"


class Scraping(NamedTuple):
    """Meat scraped off a frame [kg], from a zone of a side ("": both)."""

    id: Key
    fish_id: Key
    side: Side
    zone: Word
    kg: PieceKg
    at: Moment


class ScrapingTable(Row):
    record = Scraping

    fish = ForeignKeyField(FishTable, lazy_load=False)
    side = TextField(default="")
    zone = TextField()
    kg = FloatField()
    at = Instant()

    class Meta:
        table_name = "scraping"
