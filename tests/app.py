"""A ctx of stations on a temporary data file, with a clock that the test holds."""

import itertools
import tempfile
import unittest
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from functools import cache
from pathlib import Path
from random import Random

from lepidos.devices.printer import SimulatedPrinter
from lepidos.devices.scale import SimulatedScale
from lepidos.guide.library import load_guide
from lepidos.stations.base.context import AppContext, Receipt
from lepidos.stations.deck import landing, landing_check
from lepidos.stations.header.header import Header, view_header
from lepidos.stations.pack import label, pack, portioning, seal
from lepidos.stations.table import weighing
from lepidos.stations.table.fish_view import TableView
from lepidos.stations.trips import trips
from lepidos.store.base.ids import IdMaker
from lepidos.store.file.database import Store

NOON = datetime(2026, 7, 14, 12, 0, tzinfo=UTC)


@cache
def _new_file() -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "lepidos.sqlite"
        Store.open(path).close()
        return path.read_bytes()


def lay_out(path: Path) -> None:
    """A data file as the app makes it, made once: its twenty migrations take a tenth of a second."""
    path.write_bytes(_new_file())


def kg_of(view: TableView, piece: str, side: str = "") -> float:
    """What has been weighed of a piece; both sides when `side` is empty."""
    return sum(weighing.kg for weighing in view.weighed(piece, side))


class TickingClock:
    """A clock that moves only when told to."""

    def __init__(self, at: datetime) -> None:
        self.at = at

    def __call__(self) -> datetime:
        return self.at

    def advance(self, **parts: float) -> None:
        self.at += timedelta(**parts)


class AppTest(unittest.TestCase):
    """A test with `self.ctx`, and the path's use cases in one line each."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.clock = TickingClock(NOON)
        self.seconds = itertools.count(0.0, 10.0)  # each look at the scale is ten seconds later
        rng = Random(7)
        self.scale = SimulatedScale(lambda: next(self.seconds), Random(8))
        self.printer = SimulatedPrinter()
        path = self.folder / "lepidos.sqlite"
        lay_out(path)
        store = Store.open(path)
        self.addCleanup(store.close)
        self.ctx = AppContext(
            store,
            load_guide().copy(),
            self.clock,
            IdMaker(rng),
            rng,
            self.scale,
            self.printer,
            "UTC",
        )
        self._keys = itertools.count(1)

    def key(self) -> str:
        return f"test-{next(self._keys):08d}"

    def start_trip(self, **changes: object) -> str:
        order = trips.StartTrip(
            "Marram Lass",
            "boat",
            "Skarrow Quay",
            on_date=date(2026, 7, 14),
            people=("Ines",),
            parties=("Tolland", "Marsh"),
        )
        return trips.start_trip(self.ctx, self.key(), replace(order, **changes)).subject_id

    def land(
        self, trip_id: str, species: str = "pollack", cm: float = 68, **more: object
    ) -> Receipt:
        more.setdefault("states", ("bled", "iced"))
        taken = more.pop("length_type", "total")
        order = landing_check.LandFish(trip_id, species, cm / 100, taken, **more)
        return landing.land_fish(self.ctx, self.key(), order)

    def weigh(self, fish_id: str, slot: str, kg: float | None) -> Receipt:
        piece, _, side = slot.partition(".")
        return weighing.weigh_piece(
            self.ctx, self.key(), weighing.WeighPiece(fish_id, piece, side, kg)
        )

    def seal(self, weighing_id: str, index: int = 0, **more: object) -> Receipt:
        marks, also = more.pop("marks", portioning.Marks()), more.pop("also", ())
        bag = seal.PieceBag(weighing_id, index, marks, also)
        order = seal.SealBag(pack.trip_of_piece(self.ctx, weighing_id), of_piece=bag, **more)
        return seal.seal_bag(self.ctx, self.key(), order)

    def header(self, trip_id: str) -> Header:
        return view_header(self.ctx, trips.view_trip(self.ctx, trip_id).trip)

    def code_of(self, bag_id: str) -> str:
        return label.label_of(self.ctx, bag_id).code
