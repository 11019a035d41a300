"""The tables, each beside the record that the store hands out of it.

The SQL in `migrations/` makes them; a test compares.
"""

from lepidos.store.tables.bags import (
    BagNowTable,
    BagTable,
    MoveTable,
    PortionTable,
)
from lepidos.store.tables.boards import BoardTable, HoldTable
from lepidos.store.tables.cutting import FateRowTable, ForecastTable, SightRowTable, WeighingTable
from lepidos.store.tables.devices import DeviceTable
from lepidos.store.tables.earlier import EarlierTable
from lepidos.store.tables.entries import EntryTable, UndoTable
from lepidos.store.tables.fish import (
    FactTable,
    FishNowTable,
    FishTable,
    LookTable,
    MeasurementTable,
    ReadingTable,
)
from lepidos.store.tables.own import OwnGuideTable, RuleCardRowTable
from lepidos.store.tables.packing import (
    BagRuleTable,
    LabelCountTable,
    LabelPrintTable,
    PartSaidTable,
    PartyWishTable,
    PieceMarkTable,
    ShareRuleTable,
    SupplyCountTable,
)
from lepidos.store.tables.places import (
    MealTable,
    PlaceSaidTable,
    PlaceTable,
    StocktakeTable,
    TemperatureLogTable,
    TemperatureSliceTable,
)
from lepidos.store.tables.receipts import CostTable, ReceiptLinkTable
from lepidos.store.tables.settings import SettingTable
from lepidos.store.tables.trials import (
    ScrapingTable,
    SharpeningTable,
    TrialFishTable,
    TrialTable,
)
from lepidos.store.tables.trips import IceNoteTable, PartyTable, PersonTable, TripTable
from lepidos.store.tables.wishes import WishTable

TABLES = [
    TripTable,
    PersonTable,
    PartyTable,
    FishTable,
    MeasurementTable,
    FactTable,
    WeighingTable,
    UndoTable,
    EntryTable,
    FishNowTable,
    BagTable,
    PortionTable,
    PlaceTable,
    PlaceSaidTable,
    MoveTable,
    BagNowTable,
    ReadingTable,
    LookTable,
    IceNoteTable,
    BoardTable,
    HoldTable,
    RuleCardRowTable,
    OwnGuideTable,
    SightRowTable,
    FateRowTable,
    ForecastTable,
    WishTable,
    SettingTable,
    BagRuleTable,
    PieceMarkTable,
    PartSaidTable,
    SupplyCountTable,
    ShareRuleTable,
    CostTable,
    ReceiptLinkTable,
    PartyWishTable,
    LabelPrintTable,
    LabelCountTable,
    TemperatureLogTable,
    TemperatureSliceTable,
    StocktakeTable,
    MealTable,
    TrialTable,
    TrialFishTable,
    SharpeningTable,
    ScrapingTable,
    DeviceTable,
    EarlierTable,
]
