"""The whole log out and in: nothing lost, nothing doubled, whichever comes first."""

import csv
import io
import json
import sqlite3
import time
import zipfile
from collections import Counter
from dataclasses import replace
from random import Random
from unittest import mock

import frictionless
from frictionless.resources import TableResource
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from lepidos.core.errors import BadInput, Conflict
from lepidos.demo.scenario import play
from lepidos.devices.freezer_logger import SimulatedLogger
from lepidos.exchange.table_csv import MAX_CELL_LENGTH, read_csv
from lepidos.stations.base.context import AppContext
from lepidos.stations.bundle import bring_in
from lepidos.stations.bundle import settle as settling
from lepidos.stations.bundle.bring_in import BringIn, Bundles, Coming, Stopped
from lepidos.stations.bundle.read import read_bundle
from lepidos.stations.bundle.write import write_bundle
from lepidos.stations.freezer import freezer, moves, places
from lepidos.stations.pack import portioning
from lepidos.stations.trips import trips
from lepidos.stations.undo import undo
from lepidos.stations.yieldbook import yieldbook
from lepidos.store.base.ids import IdMaker
from lepidos.store.bundle.whole_log import open_log, rows_of, shapes
from lepidos.store.deck import fish_now, fishes
from lepidos.store.file import migrate
from lepidos.store.file.database import Store
from lepidos.store.pack import bags
from lepidos.store.trips import trips as store_trips
from tests.amount import much
from tests.app import AppTest, lay_out

DERIVED = "SELECT * FROM fish_now ORDER BY 1", "SELECT * FROM bag_now ORDER BY 1"


def written(ctx: AppContext) -> bytes:
    return b"".join(write_bundle(ctx))


def derived(ctx: AppContext) -> list[list[tuple]]:
    file = sqlite3.connect(ctx.store.path)
    try:
        return [file.execute(query).fetchall() for query in DERIVED]
    finally:
        file.close()


NEWEST = migrate.steps()[-1][0]


class BundleTest(AppTest):
    """`self.ctx` and other machines; the store's tables are bound to the one opened last."""

    def on(self, ctx: AppContext) -> AppContext:
        """Work on this machine from here on."""
        ctx.store.close()
        opened = replace(ctx, store=Store.open(ctx.store.path))
        self.addCleanup(opened.store.close)
        self.ctx = opened
        return opened

    def other(self, name: str, seed: int = 1) -> AppContext:
        """Another machine, with an empty log."""
        path = self.folder / name / "lepidos.sqlite"
        path.parent.mkdir()
        lay_out(path)
        fresh = replace(self.ctx, store=Store(path), ids=IdMaker(Random(seed)), rng=Random(seed))
        return self.on(fresh)

    def take(self, ctx: AppContext, data: bytes, name: str = "log.zip"):
        path = self.folder / "came.zip"
        path.write_bytes(data)
        log, digest = read_bundle(ctx, path, self.folder / "came.log", lambda _t, _p: None)
        try:
            return bring_in.bring_in(ctx, self.key(), log, BringIn(digest, name), Coming("t", name))
        finally:
            log.close()


class RoundTripTest(BundleTest):
    def played(self) -> None:
        """The demo day on this machine."""
        logger = SimulatedLogger(lambda: self.clock().timestamp(), Random(3))
        self.ctx = replace(self.ctx, logger=logger)
        play(self.ctx)

    def test_the_demo_day_goes_out_and_comes_in_and_is_the_same(self) -> None:
        self.played()
        home, before = self.ctx, derived(self.ctx)
        data = written(home)
        tablet = self.other("tablet")
        self.take(tablet, data)
        self.assertEqual(written(tablet), data)
        self.assertEqual(derived(tablet), before)
        done, report = self.take(tablet, data)
        self.assertIn("all of it was here already", done.sentence)
        self.assertFalse(sum(report.new.values()) + sum(report.changed.values()))
        self.assertEqual(written(tablet), data)

    def test_it_is_a_data_package_that_another_library_finds_valid(self) -> None:
        self.played()
        folder = self.folder / "unpacked"
        zipfile.ZipFile(io.BytesIO(written(self.ctx))).extractall(folder)
        report = frictionless.validate(str(folder / "datapackage.json"))
        self.assertTrue(report.valid, report.flatten(["type", "message"])[:3])
        package = frictionless.Package(str(folder / "datapackage.json"))
        tables = (r for r in package.resources if isinstance(r, TableResource))
        fish = next(table for table in tables if table.name == "fish")
        self.assertGreater(len(fish.read_rows()), 30)

    def test_after_reading_a_bundle_a_persons_file_still_has_its_limit(self) -> None:
        self.land(self.start_trip())
        self.take(self.other("tablet"), written(self.ctx))
        self.assertGreater(csv.field_size_limit(), MAX_CELL_LENGTH)
        with self.assertRaisesRegex(BadInput, "cannot be read"):
            read_csv("species,length\n" + "x" * (MAX_CELL_LENGTH + 1) + ",70\n")

    def test_odd_texts_come_back_as_they_were(self) -> None:
        name = '=1+1, "quoted"\r\nand a line ’ä'
        trip = self.start_trip(parties=(name,))
        self.land(trip)
        data = written(self.ctx)
        tablet = self.other("tablet")
        self.take(tablet, data)
        self.assertEqual(written(tablet), data)

    def test_a_bundle_of_an_older_schema_comes_in(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        old = self.folder / "old.sqlite"
        file = sqlite3.connect(old)
        migrate.up(file, 14)
        with open_log(self.ctx.store.path) as (_, log):
            now = {s.name: s for s in shapes(log)}
            for shape in shapes(file):
                kept = [now[shape.name].at(n) for n in shape.names]
                marks = ", ".join("?" * len(kept))
                file.executemany(
                    f"INSERT INTO {shape.name} ({', '.join(shape.names)}) VALUES ({marks})",
                    [[row[k] for k in kept] for row in rows_of(log, now[shape.name])],
                )
        file.commit()
        file.close()
        data = b"".join(write_bundle(replace(self.ctx, store=Store(old))))
        self.assertIn(b'"schema": 14', zipfile.ZipFile(io.BytesIO(data)).read("datapackage.json"))
        tablet = self.other("tablet")
        self.take(tablet, data)
        with tablet.store.reading():
            self.assertEqual(fishes.now(fish).stage, "slab")
        self.assertEqual(len(yieldbook.view_book(tablet, trip).rows), 1)


class MergeTest(BundleTest):
    def both(self, first: bytes, second: bytes, name: str) -> tuple[AppContext, list[str]]:
        machine = self.other(name, seed=99)
        self.take(machine, first)
        _, report = self.take(machine, second)
        return machine, report.met

    def meets(self, a: bytes, b: bytes) -> list[str]:
        """Both orders give the same log, and nothing changes it any more."""
        one, met = self.both(a, b, "one")
        merged, state = written(one), derived(one)
        two, _ = self.both(b, a, "two")
        self.assertEqual(written(two), merged)
        self.assertEqual(derived(two), state)
        for again in (a, b, merged):
            _, report = self.take(two, again)
            self.assertFalse(sum(report.new.values()) + sum(report.changed.values()))
            self.assertEqual(written(two), merged)
        return met

    def parted(self) -> tuple[AppContext, AppContext, str]:
        """A trip that was begun at home and went on on two machines."""
        home, trip = self.ctx, self.start_trip()
        self.shared = self.land(trip).subject_id
        data = written(home)
        tablet = self.other("tablet", seed=5)
        self.take(tablet, data)
        return home, self.ctx, trip

    def test_two_days_on_two_machines_become_one_log(self) -> None:
        home, tablet, trip = self.parted()
        self.on(home)
        p2 = self.land(trip, cm=70).subject_id
        self.weigh(self.shared, "fillet.A", 0.5)
        cod = self.land(trip, "cod", 60).subject_id
        self.weigh(cod, "fillet.A", 0.4)
        a = written(self.ctx)
        self.on(tablet)
        self.clock.advance(minutes=5)
        other = self.land(trip, cm=72).subject_id
        self.weigh(self.shared, "fillet.B", 0.52)
        b = written(self.ctx)
        met = self.meets(a, b)
        self.assertTrue(any("Two fish are called" in said for said in met), met)
        with self.ctx.store.reading():
            codes = {fishes.get(f).code for f in (self.shared, p2, other)}
            self.assertEqual(len(codes), 3)
            self.assertEqual(fishes.get(p2).code + "b", fishes.get(other).code)
            self.assertAlmostEqual(fishes.now(self.shared).fillet_kg, 1.02)

    def test_what_has_one_name_on_both_is_one_thing(self) -> None:
        home, tablet, _trip = self.parted()
        self.on(home)
        chest = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        bag = self.seal(self.weigh(self.shared, "fillet.A", 0.5).subject_id).subject_id
        put = moves.PutAway((self.code_of(bag),), chest)
        moves.put_away(self.ctx, self.key(), put)
        a = written(self.ctx)
        self.on(tablet)
        self.clock.advance(minutes=5)
        again = places.add_place(self.ctx, self.key(), places.AddPlace("chest")).subject_id
        bag = self.seal(self.weigh(self.shared, "fillet.B", 0.5).subject_id).subject_id
        moves.put_away(self.ctx, self.key(), moves.PutAway((self.code_of(bag),), again))
        b = written(self.ctx)
        self.assertIn("Place chest was on both: one now", self.meets(a, b))
        file = sqlite3.connect(self.ctx.store.path)
        self.addCleanup(file.close)
        self.assertEqual(file.execute("SELECT id FROM place").fetchall(), [(chest,)])
        rows = file.execute("SELECT place_id, state FROM bag_now").fetchall()
        self.assertEqual(rows, [(chest, "in")] * 2)

    def test_of_one_row_corrected_on_both_the_one_corrected_more_often_holds(self) -> None:
        home, tablet, trip = self.parted()
        self.on(home)
        for cm in (71, 73):
            self.correct_trip(trip, cm)
        a = written(self.ctx)
        self.on(tablet)
        self.clock.advance(minutes=5)
        self.correct_trip(trip, 99)
        met = self.meets(a, written(self.ctx))
        self.assertTrue(any("One trip differs" in said for said in met), met)
        self.assertEqual(trips.get_trip(self.ctx, trip).ice_kg, 73)

    def correct_trip(self, trip: str, ice: float) -> None:
        with self.ctx.store.writing():
            store_trips.change(store_trips.get(trip), ice_kg=ice)

    def test_two_bags_that_drew_one_code_are_told_and_both_kept(self) -> None:
        home, tablet, _trip = self.parted()
        packed = []
        for ctx, side in ((home, "fillet.A"), (tablet, "fillet.B")):
            self.on(ctx)
            self.clock.advance(minutes=1)
            with mock.patch("lepidos.core.pack.labels.make_code", return_value="222222"):
                self.seal(self.weigh(self.shared, side, 0.5).subject_id)
            packed.append(written(self.ctx))
        met = self.meets(*packed)
        self.assertTrue(any("label it again" in said for said in met), met)
        file = sqlite3.connect(self.ctx.store.path)
        self.addCleanup(file.close)
        codes = [code for (code,) in file.execute("SELECT code FROM bag ORDER BY id")]
        self.assertEqual(codes[0], "222222")
        self.assertNotEqual(codes[1], "222222")

    def settled(self, text: str, way: int, label: str) -> None:
        """The one contradiction is told, settled, gone; undone, it is back; at the end it is gone."""
        (one,) = settling.view_contradictions(self.ctx, "metric")
        self.assertRegex(one.text, text)
        self.assertRegex(one.ways[way].label, label)
        order = settling.Settle(one.key, way)
        for last in (False, True):
            done = settling.settle(self.ctx, self.key(), order)
            self.assertEqual(settling.view_contradictions(self.ctx, "metric"), ())
            self.assertEqual(self.recomputed(), derived(self.ctx))
            with self.assertRaises(Conflict):
                settling.settle(self.ctx, self.key(), order)
            if not last:
                undo.undo_row(self.ctx, self.key(), undo.UndoRow("change", done.subject_id))
                self.assertEqual(settling.view_contradictions(self.ctx, "metric"), (one,))
                self.assertEqual(self.recomputed(), derived(self.ctx))

    def recomputed(self) -> list[list[tuple]]:
        """What is derived, from the rows alone."""
        with self.ctx.store.writing():
            every = self.ctx.store._database.execute_sql("SELECT id FROM fish").fetchall()
            fish_now.refresh_many([key for (key,) in every], self.ctx.is_fillet)
            every = self.ctx.store._database.execute_sql("SELECT id FROM bag").fetchall()
            bags.refresh_many([key for (key,) in every])
        return derived(self.ctx)

    def merged(self, home: AppContext, tablet: AppContext) -> None:
        """Go on at home, with what the tablet has."""
        data = written(self.on(tablet))
        self.take(self.on(home), data)

    def test_a_log_that_nothing_was_merged_into_has_no_contradictions(self) -> None:
        trip = self.start_trip()
        fish = self.land(trip).subject_id
        self.weigh(fish, "fillet.A", 0.5)
        self.weigh(fish, "fillet.A", 0.4)
        self.assertEqual(settling.view_contradictions(self.ctx, "metric"), ())

    def test_a_piece_sealed_on_both_is_told_and_settled_either_way(self) -> None:
        for way in (0, 1):
            with self.subTest(way=way):
                self.again()
                home, tablet, piece = self.parted_with_a_piece()
                self.on(home)
                for index in range(2):
                    self.seal(piece, index)
                self.on(tablet)
                self.seal(piece, 0, marks=portioning.Marks(per_bag=9))
                self.merged(home, tablet)
                self.settled("^P1 fillet A was sealed in bag .* and in ", way, "^Take back")

    def parted_with_a_piece(self) -> tuple[AppContext, AppContext, str]:
        home, trip = self.ctx, self.start_trip()
        self.shared = self.land(trip).subject_id
        piece = self.weigh(self.shared, "fillet.A", 0.5).subject_id
        data = written(home)
        tablet = self.other("tablet", seed=5)
        self.take(tablet, data)
        return home, self.ctx, piece

    def again(self) -> None:
        self.doCleanups()
        self.setUp()

    def test_a_bag_with_an_undone_piece_is_told_and_settled_either_way(self) -> None:
        for way, label in enumerate(("^Take back bag", "^Keep the weight of 500 g")):
            with self.subTest(way=way):
                self.again()
                home, tablet, piece = self.parted_with_a_piece()
                self.on(home)
                self.seal(piece)
                self.on(tablet)
                undo.undo_row(self.ctx, self.key(), undo.UndoRow("weighing", piece))
                self.merged(home, tablet)
                self.settled(
                    "^Bag .* holds P1 fillet A, 500 g, but that weight was undone", way, label
                )

    def test_a_withdrawn_fish_with_weights_is_told_and_settled_either_way(self) -> None:
        for way, label in enumerate(("^Bring P1 back", "^Undo its weights, too")):
            with self.subTest(way=way):
                self.again()
                home, tablet, _ = self.parted()
                self.on(home)
                self.seal(self.weigh(self.shared, "fillet.A", 0.5).subject_id)
                self.on(tablet)
                undo.undo_row(self.ctx, self.key(), undo.UndoRow("fish", self.shared))
                self.merged(home, tablet)
                self.settled("^The landing of P1 was undone, but it has 1 weight", way, label)

    def test_a_piece_weighed_on_both_is_told_and_settled_either_way(self) -> None:
        for way, label in enumerate(("^Keep 500 g", "^Keep 520 g")):
            with self.subTest(way=way):
                self.again()
                home, tablet, _ = self.parted()
                self.on(home)
                self.weigh(self.shared, "fillet.A", 0.5)
                self.on(tablet)
                self.clock.advance(minutes=1)
                self.weigh(self.shared, "fillet.A", 0.52)
                self.merged(home, tablet)
                self.settled("^P1 fillet A has 2 weights: 500 g and 520 g", way, label)

    def test_what_was_undone_on_one_is_undone_on_both(self) -> None:
        home, tablet, _trip = self.parted()
        self.on(home)
        piece = self.weigh(self.shared, "fillet.A", 0.5).subject_id
        data = written(self.ctx)
        self.on(tablet)
        self.take(self.ctx, data)
        undo.undo_row(self.ctx, self.key(), undo.UndoRow("weighing", piece))
        b = written(self.ctx)
        self.meets(data, b)
        with self.ctx.store.reading():
            self.assertEqual(fishes.now(self.shared).weighed_kg, 0)

    @settings(max_examples=much(16, 4), deadline=None, suppress_health_check=list(HealthCheck))
    @example([(False, "s"), (True, "s"), (False, "l"), (False, "l"), (False, "l")])
    @given(st.lists(st.tuples(st.booleans(), st.sampled_from("lwpsiu")), min_size=4, max_size=14))
    def test_any_two_days_meet_alike(self, steps: list[tuple[bool, str]]) -> None:
        self.tearDown()
        self.doCleanups()
        self.setUp()
        home, tablet, trip = self.parted()
        for at_home, step in steps:
            self.on(home if at_home else tablet)
            self.clock.advance(minutes=1)
            self.do(trip, step)
        self.meets(written(self.on(home)), written(self.on(tablet)))
        for _ in range(40):
            left = settling.view_contradictions(self.ctx, "metric")
            if not left:
                break
            settling.settle(self.ctx, self.key(), settling.Settle(left[0].key, len(steps) % 2))
        self.assertEqual(self.recomputed(), derived(self.ctx))
        self.assert_all_can_be_true()

    def assert_all_can_be_true(self) -> None:
        """Said from the rows alone, in another way than the app looks for it."""
        file = sqlite3.connect(self.ctx.store.path)
        self.addCleanup(file.close)
        undone = {key for (key,) in file.execute("SELECT target_id FROM undo")}
        shares: Counter[str] = Counter()
        for bag, weighing, share in file.execute("SELECT bag_id, weighing_id, share FROM portion"):
            if bag not in undone:
                shares[weighing] += share
                self.assertNotIn(weighing, undone)
        self.assertLessEqual(max(shares.values(), default=0), 1.005)
        weighed: Counter[tuple[str, str]] = Counter()
        for key, fish, side in file.execute("SELECT id, fish_id, side FROM weighing"):
            if key not in undone:
                weighed[fish, side] += 1
                self.assertNotIn(fish, undone)
        self.assertLessEqual(max(weighed.values(), default=0), 1)

    def do(self, trip: str, step: str) -> None:
        with self.ctx.store.reading():
            free = [f.id for f, n in fishes.of_trip(trip) if n.weighed_kg == 0]
        if step == "l":
            self.land(trip, "cod")
        elif step == "w" and free:
            self.weigh(free[0], "fillet.A", 0.5)
        elif step == "p":
            name = f"chest {self.clock().minute % 2}"
            if name not in [place.name for place, _ in self.places()]:
                places.add_place(self.ctx, self.key(), places.AddPlace(name))
        elif step == "s" and free:
            self.seal(self.weigh(free[-1], "fillet.B", 0.4).subject_id)
        elif step == "u" and free:
            undo.undo_row(self.ctx, self.key(), undo.UndoRow("fish", free[0]))
        elif step == "i":
            self.correct_trip(trip, float(self.clock().minute))

    def places(self) -> list:
        return list(freezer.view_freezer(self.ctx).places)


class BadBundleTest(BundleTest):
    def setUp(self) -> None:
        super().setUp()
        self.trip = self.start_trip()
        self.weigh(self.land(self.trip).subject_id, "fillet.A", 0.5)
        self.data = written(self.ctx)
        self.tablet = self.other("tablet")
        self.empty = written(self.tablet)

    def changed(self, name: str, old: str, new: str) -> bytes:
        out = io.BytesIO()
        source = zipfile.ZipFile(io.BytesIO(self.data))
        with zipfile.ZipFile(out, "w") as target:
            for entry in source.infolist():
                text = source.read(entry).decode()
                if entry.filename == name:
                    self.assertIn(old, text)
                    text = text.replace(old, new, 1)
                target.writestr(entry.filename, text)
        return out.getvalue()

    def refused(self, data: bytes, words: str) -> None:
        with self.assertRaises(BadInput) as caught:
            self.take(self.tablet, data)
        self.assertIn(words, str(caught.exception))
        self.assertEqual(written(self.tablet), self.empty)
        self.assertEqual(list(self.folder.glob("*.log")), [])

    def test_each_slip_has_its_sentence_and_nothing_comes_in(self) -> None:
        for name, old, new, words in (
            ("datapackage.json", f'"schema": {NEWEST}', '"schema": 99', "newer Lepidos"),
            ("datapackage.json", f'"schema": {NEWEST}', '"schema": 3', "too old"),
            ("datapackage.json", '"lepidos"', '"nothing"', "not a bundle of Lepidos"),
            ("data/weighing.csv", "0.5", "half", "line 2, kg: “half” is not a number"),
            ("data/weighing.csv", "0.5", "nan", "is not a number"),
            ("data/weighing.csv", "0.5", "-1", "line 2"),
            ("data/weighing.csv", "0.5", "90000", "less than or equal to 5000"),
            ("data/weighing.csv", "fillet", "feather", "no piece “feather”"),
            (
                "data/weighing.csv",
                "2026-07-14T12:00:00.000Z",
                "2026-07-14T12:00:00",
                "is not a time",
            ),
            ("data/fish.csv", "pollack", "unicorn", "no fish “unicorn”"),
            ("data/fish.csv", ",code,", ",kode,", "column"),
            ("data/trip.csv", "UTC", "Nowhere/Town", "not a time zone"),
            ("data/trip.csv", "2026-07-14,", "14 July,", "is not a date"),
        ):
            with self.subTest(words=words, new=new):
                self.refused(self.changed(name, old, new), words)

    def test_a_row_whose_fish_is_missing_is_refused(self) -> None:
        text = zipfile.ZipFile(io.BytesIO(self.data)).read("data/fish.csv").decode()
        self.refused(
            self.changed("data/fish.csv", text, text.splitlines()[0] + "\r\n"), "belongs to"
        )

    def test_what_is_no_bundle_is_refused(self) -> None:
        self.refused(b"PK nothing of the kind", "no zip file")
        self.refused(self.data[: len(self.data) // 2], "no zip file")
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as target:
            target.writestr("datapackage.json", json.dumps([1]))
        self.refused(out.getvalue(), "not a bundle")

    def test_a_flipped_byte_is_noticed(self) -> None:
        place = self.data.index(b"data/weighing.csv") + 40
        broken = bytearray(self.data)
        broken[place] ^= 0x55
        with self.assertRaises(BadInput):
            self.take(self.tablet, bytes(broken))
        self.assertEqual(written(self.tablet), self.empty)

    def test_stopped_in_the_middle_nothing_came_in(self) -> None:
        path = self.folder / "came.zip"
        path.write_bytes(self.data)
        log, digest = read_bundle(self.tablet, path, self.folder / "x.log", lambda _t, _p: None)
        self.addCleanup(log.close)
        coming = Coming("t", "x")
        told = coming.told

        def stop_at_pieces(table: str, part: float) -> None:
            if table == "weighing":
                coming.stop.set()
            told(table, part)

        with mock.patch.object(coming, "told", stop_at_pieces), self.assertRaises(Stopped):
            bring_in.bring_in(self.tablet, self.key(), log, BringIn(digest, "x"), coming)
        self.assertEqual(written(self.tablet), self.empty)

    def test_a_retried_request_merges_once(self) -> None:
        path = self.folder / "came.zip"
        path.write_bytes(self.data)
        key = self.key()
        for repeated in (False, True):
            log, digest = read_bundle(self.tablet, path, self.folder / "x.log", lambda _t, _p: None)
            done, _ = bring_in.bring_in(
                self.tablet, key, log, BringIn(digest, "x"), Coming("t", "x")
            )
            log.close()
            self.assertEqual(done.repeated, repeated)
        kept = list((self.tablet.store.path.parent / "backups").glob("*-bundle.sqlite"))
        self.assertEqual(len(kept), 1)
        self.assertEqual(
            sqlite3.connect(kept[0]).execute("SELECT count(*) FROM fish").fetchone(), (0,)
        )


class WayInTest(BundleTest):
    """The bundle's way through the app: read in a thread, looked at, accepted."""

    def until(self, bundles: Bundles, *states: str) -> Coming:
        for _ in range(200):
            if bundles.coming and bundles.coming.state in states:
                return bundles.coming
            time.sleep(0.02)
        raise AssertionError(bundles.coming)

    def test_nothing_comes_in_before_it_is_accepted(self) -> None:
        self.land(self.start_trip())
        data = written(self.ctx)
        tablet, bundles = self.other("tablet"), Bundles()
        empty = written(tablet)
        path = self.folder / "came.zip"
        path.write_bytes(data)
        bundles.begin(tablet, path, "boat.zip")
        coming = self.until(bundles, "ready", "failed")
        self.assertEqual((coming.contents.fish, coming.contents.known_fish), (1, 0))
        self.assertEqual(written(tablet), empty)
        bundles.accept(tablet, self.key(), coming.token)
        coming = self.until(bundles, "done", "failed")
        self.assertEqual(coming.sentence, "boat.zip: 1 trip, 1 fish new")
        self.assertEqual(written(tablet), data)
        self.assertFalse(path.exists())

    def test_a_bad_file_says_why(self) -> None:
        bundles = Bundles()
        path = self.folder / "came.zip"
        path.write_bytes(b"no zip")
        bundles.begin(self.ctx, path, "photo.zip")
        self.assertIn("no zip file", self.until(bundles, "failed").why)
