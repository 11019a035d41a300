"""Queries kept ready give what the same query gives when it is made again."""

from lepidos.store import records
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import MAKERS, columns, read
from lepidos.store.deck import fishes
from lepidos.store.records import Fish
from lepidos.store.schedule import work
from lepidos.store.schema import FactTable, FishNowTable, FishTable, UndoTable
from tests.app import AppTest


class ReadyTest(AppTest):
    def test_the_same_rows_for_each_value(self) -> None:
        one, two = self.start_trip(), self.start_trip()
        for trip in (one, two, one):
            self.land(trip)
        of_trip: Ready[Fish] = Ready(
            lambda trip: (
                FishTable.select()
                .where(FishTable.trip == trip)
                .order_by(FishTable.landed_at, FishTable.id)
            )
        )
        with self.ctx.store.reading():
            for trip in (one, two, one, "nobody's"):
                plain = read(
                    FishTable.select().where(FishTable.trip == trip).order_by(FishTable.id)
                )
                ready = of_trip(trip)
                self.assertEqual(ready, plain)
                self.assertEqual(len(ready), 2 if trip == one else 1 if trip == two else 0)
                self.assertTrue(all(f.landed_at.tzinfo for f in ready))
            first = of_trip.first(one)
            assert first is not None
            self.assertEqual(first.trip_id, one)
            self.assertIsNone(of_trip.first("nobody's"))

    def test_constants_stay_and_several_values_find_their_places(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        query: Ready[records.FishNow] = Ready(
            lambda stage, trip: FishNowTable.select().where(
                FishNowTable.trip == trip,
                FishNowTable.length_type == "total",
                FishNowTable.stage == stage,
            )
        )
        with self.ctx.store.reading():
            self.assertEqual([row.fish_id for row in query("slab", trip)], [fish])
            self.assertEqual(query("done", trip), [])
            with self.assertRaises(ValueError):
                query("slab")

    def test_a_value_that_goes_nowhere_is_a_mistake(self) -> None:
        self.start_trip()
        lost: Ready[Fish] = Ready(lambda trip: FishTable.select())
        with self.ctx.store.reading(), self.assertRaisesRegex(ValueError, "does not use"):
            lost("T1")

    def test_rows_that_were_taken_back_are_not_among_those_that_stand(self) -> None:
        fish = self.land(self.start_trip()).subject_id
        with self.ctx.store.writing():
            gone = fishes.add_fact(self.ctx.ids, self.clock(), fish, work.STATE, "gutted")
            UndoTable.create(
                id=self.ctx.ids.new(self.clock()), kind="fact", target_id=gone.id,
                at=self.clock(), force_insert=True,
            )  # fmt: skip
        with self.ctx.store.reading():
            standing = {f.name for f in fishes.facts_of(fish)}
            every = {f.name for f in FactTable.select().where(FactTable.fish == fish)}
        self.assertEqual(every - standing, {"gutted"})

    def test_a_record_is_changed_through_its_repository_and_by_no_one_else(self) -> None:
        fish = self.land(self.start_trip()).subject_id
        with self.ctx.store.writing():
            row = fishes.get(fish)
            self.assertEqual(fishes.change(row, skin="off").skin, "off")
            self.assertEqual(row.skin, "on")
            with self.assertRaises(ValueError):
                fishes.change(row, weight=2.0)
        with self.assertRaises(AttributeError):
            row.skin = "off"  # type: ignore[misc]
        with self.ctx.store.reading():
            self.assertEqual(fishes.get(fish).skin, "off")

    def test_every_record_has_the_columns_of_its_table(self) -> None:
        self.assertGreater(len(MAKERS), 20)
        for model in MAKERS:
            with self.subTest(table=model.__name__):
                self.assertEqual(model.record._fields, columns(model))
