"""What the store hands out: one frozen record a row, with the names of its columns.

Nothing above the store can write to one; a change is asked for by the repository's functions,
which return the record as it is then. Each is written down beside its table.
"""

from lepidos.store.tables.bags import Bag, BagNow, Move, Portion
from lepidos.store.tables.boards import Board
from lepidos.store.tables.cutting import FateRow, Forecast, SightRow, Weighing
from lepidos.store.tables.devices import Device
from lepidos.store.tables.earlier import Earlier
from lepidos.store.tables.entries import Entry, Undo
from lepidos.store.tables.fish import Fact, Fish, FishNow, Look, Measurement, Reading
from lepidos.store.tables.own import OwnGuide, RuleCardRow
from lepidos.store.tables.packing import (
    BagRule,
    LabelCount,
    LabelPrint,
    PartSaid,
    PartyWish,
    PieceMark,
    ShareRule,
    SupplyCount,
)
from lepidos.store.tables.places import (
    Meal,
    Place,
    PlaceSaid,
    Stocktake,
    TemperatureLog,
    TemperatureSlice,
)
from lepidos.store.tables.receipts import Cost, ReceiptLink
from lepidos.store.tables.settings import Setting
from lepidos.store.tables.trials import Scraping, Sharpening, Trial, TrialFish
from lepidos.store.tables.trips import IceNote, Party, Person, Trip
from lepidos.store.tables.wishes import WishRow

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
