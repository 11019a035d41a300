"""The tables, each beside the record that the store hands out of it.

The SQL in `migrations/` makes them; a test compares.
"""

from lepidos.store.schema.bags import (
    BagNowTable,
    BagTable,
    MoveTable,
    PortionTable,
)
from lepidos.store.schema.boards import BoardTable, HoldTable
from lepidos.store.schema.cutting import FateRowTable, ForecastTable, SightRowTable, WeighingTable
from lepidos.store.schema.devices import DeviceTable
from lepidos.store.schema.earlier import EarlierTable
from lepidos.store.schema.entries import EntryTable, UndoTable
from lepidos.store.schema.fish import (
    FactTable,
    FishNowTable,
    FishTable,
    LookTable,
    MeasurementTable,
    ReadingTable,
)
from lepidos.store.schema.own import OwnGuideTable, RuleCardRowTable
from lepidos.store.schema.packing import (
    BagRuleTable,
    LabelCountTable,
    LabelPrintTable,
    PartSaidTable,
    PartyWishTable,
    PieceMarkTable,
    ShareRuleTable,
    SupplyCountTable,
)
from lepidos.store.schema.places import (
    MealTable,
    PlaceSaidTable,
    PlaceTable,
    StocktakeTable,
    TemperatureLogTable,
    TemperatureSliceTable,
)
from lepidos.store.schema.receipts import CostTable, ReceiptLinkTable
from lepidos.store.schema.settings import SettingTable
from lepidos.store.schema.trials import (
    ScrapingTable,
    SharpeningTable,
    TrialFishTable,
    TrialTable,
)
from lepidos.store.schema.trips import IceNoteTable, PartyTable, PersonTable, TripTable
from lepidos.store.schema.wishes import WishTable

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
