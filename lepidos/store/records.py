"""What the store hands out: one frozen record a row, with the names of its columns.

Nothing above the store can write to one; a change is asked for by the repository's functions,
which return the record as it is then. Each is written down beside its table.
"""

from lepidos.store.schema.bags import Bag, BagNow, Move, Portion
from lepidos.store.schema.boards import Board
from lepidos.store.schema.cutting import FateRow, Forecast, SightRow, Weighing
from lepidos.store.schema.devices import Device
from lepidos.store.schema.earlier import Earlier
from lepidos.store.schema.entries import Entry, Undo
from lepidos.store.schema.fish import Fact, Fish, FishNow, Look, Measurement, Reading
from lepidos.store.schema.own import OwnGuide, RuleCardRow
from lepidos.store.schema.packing import (
    BagRule,
    LabelCount,
    LabelPrint,
    PartSaid,
    PartyWish,
    PieceMark,
    ShareRule,
    SupplyCount,
)
from lepidos.store.schema.places import (
    Meal,
    Place,
    PlaceSaid,
    Stocktake,
    TemperatureLog,
    TemperatureSlice,
)
from lepidos.store.schema.receipts import Cost, ReceiptLink
from lepidos.store.schema.settings import Setting
from lepidos.store.schema.trials import Scraping, Sharpening, Trial, TrialFish
from lepidos.store.schema.trips import IceNote, Party, Person, Trip
from lepidos.store.schema.wishes import WishRow

__all__ = [
    "Bag",
    "BagNow",
    "BagRule",
    "Board",
    "Cost",
    "Device",
    "Earlier",
    "Entry",
    "Fact",
    "FateRow",
    "Fish",
    "FishNow",
    "Forecast",
    "IceNote",
    "LabelCount",
    "LabelPrint",
    "Look",
    "Meal",
    "Measurement",
    "Move",
    "OwnGuide",
    "PartSaid",
    "Party",
    "PartyWish",
    "Person",
    "PieceMark",
    "Place",
    "PlaceSaid",
    "Portion",
    "Reading",
    "ReceiptLink",
    "RuleCardRow",
    "Scraping",
    "Setting",
    "ShareRule",
    "Sharpening",
    "SightRow",
    "Stocktake",
    "SupplyCount",
    "TemperatureLog",
    "TemperatureSlice",
    "Trial",
    "TrialFish",
    "Trip",
    "Undo",
    "Weighing",
    "WishRow",
]
