"""Rows written and found in SQL of our own: what the tables' definitions say holds for them, too."""

from datetime import timedelta

import peewee

from lepidos.core.errors import Unknown
from lepidos.store.base.rows import add, find, read
from lepidos.store.deck import fishes
from lepidos.store.schema import BoardTable, FishTable, SettingTable
from tests.app import AppTest


class AddTest(AppTest):
    def fields(self, **more: object) -> dict[str, object]:
        """Of a fish, without what the table has a value for itself."""
        at = self.clock()
        usual = {"id": self.ctx.ids.new(at), "code": "P9", "species": "pollack", "landed_at": at}
        return usual | more

    def test_a_row_is_as_its_table_says_and_the_record_as_the_row(self) -> None:
        trip = self.start_trip()
        at = self.clock() + timedelta(milliseconds=7)
        with self.ctx.store.writing():
            fish = add(FishTable, **self.fields(trip=trip, landed_at=at, caught_by=None))
            self.assertEqual((fish.trip_id, fish.skin, fish.revision), (trip, "on", 0))
            self.assertIsNone(fish.hooked_at)
            board = add(
                BoardTable, id="B1", trip_id=trip, name="Ines", opens_at=at, closed=True
            )  # by its column's name, and what only a yes or a no is
        with self.ctx.store.reading():
            self.assertEqual(find(FishTable, fish.id, "fish"), fish)
            self.assertEqual(read_as_peewee(FishTable, fish.id), fish)
            self.assertIs(find(BoardTable, "B1", "board").closed, True)
            self.assertEqual(board, read_as_peewee(BoardTable, "B1"))

    def test_a_slip_in_the_program_is_told_and_nothing_is_written(self) -> None:
        trip = self.start_trip()
        self.land(trip)
        before = self.count()
        for fields, problem in (
            (self.fields(trip=trip, weight=2.0), KeyError),
            (self.fields(), peewee.IntegrityError),  # of no trip
            (self.fields(trip=trip, landed_at=self.clock().replace(tzinfo=None)), ValueError),
        ):
            with self.subTest(problem), self.assertRaises(problem), self.ctx.store.writing():
                add(FishTable, **fields)
        with self.assertRaises(peewee.IntegrityError), self.ctx.store.writing():
            for _ in range(2):  # the name of a setting is there once
                add(SettingTable, id=self.ctx.ids.new(self.clock()), name="n", value="v",
                    at=self.clock())  # fmt: skip
        self.assertEqual(self.count(), before)

    def test_what_is_not_there_is_named(self) -> None:
        with self.ctx.store.reading(), self.assertRaises(Unknown) as told:
            find(FishTable, "nobody's", "fish")
        self.assertIn("fish", str(told.exception))

    def count(self) -> int:
        with self.ctx.store.reading():
            return fishes.count() + SettingTable.select().count()


def read_as_peewee(model: type[FishTable], row_id: str) -> object:
    (found,) = read(model.select().where(model.id == row_id))
    return found
