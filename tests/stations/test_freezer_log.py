"""Logs of places taken in: raw holds, warm spells, what is undone, and files that wait."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from unittest import mock

from lepidos.core.errors import Conflict, Refused, Unknown
from lepidos.core.freezer.keeping_time import pace
from lepidos.core.pack.labels import show_code
from lepidos.devices.freezer_logger import SimulatedLogger
from lepidos.stations.base.context import Receipt
from lepidos.stations.freezer import (
    cold_records,
    freezer,
    holds,
    log_folder,
    moves,
    place_view,
    places,
    temperature,
)
from lepidos.stations.freezer.holds import RawHold
from lepidos.stations.freezer.log_folder import LogFolder
from lepidos.stations.freezer.temperature import OfferedLogs, ReadLogger, TakeLog
from lepidos.stations.pack import label as label_station
from lepidos.stations.table import findings, wishes
from lepidos.stations.table.said import Said
from lepidos.stations.undo import undo
from lepidos.store.pack import bags
from tests.app import NOON, AppTest


def rows(*stretches: tuple[float, float | None], start: datetime = NOON) -> bytes:
    """A logger's file: (hours, °C) in a row, a reading each five minutes; None: it was off."""
    lines, now = ["time,temp °C"], start
    for hours, celsius in stretches:
        for _ in range(round(hours * 12)):
            if celsius is not None:
                lines.append(f"{now:%Y-%m-%dT%H:%M:%SZ},{celsius}")
            now += timedelta(minutes=5)
    return "\n".join(lines).encode()


class LogTest(AppTest):
    def setUp(self) -> None:
        super().setUp()
        self.offered = OfferedLogs()
        self.trip = self.start_trip()
        self.chest, self.drawer = (
            places.add_place(self.ctx, self.key(), places.AddPlace(name)).subject_id
            for name in ("chest", "basket")
        )
        self.say(self.chest, -24)
        self.say(self.drawer, -24, "drawer", self.chest)
        self.code = self.sealed()
        self.put(self.drawer, self.code)

    def say(self, place: str, celsius: float, kind: str = "freezer", within: str = "") -> None:
        order = places.SayPlace(place, celsius, 200, "still", "metric", kind, within)
        places.say_place(self.ctx, self.key(), order)

    def sealed(self, species: str = "cod", cm: float = 70, kg: float = 0.4) -> str:
        self.fish = self.land(self.trip, species, cm).subject_id
        bag = self.seal(self.weigh(self.fish, "fillet.A", kg).subject_id).subject_id
        return self.code_of(bag)

    def put(self, place: str, *codes: str) -> Receipt:
        return moves.put_away(self.ctx, self.key(), moves.PutAway(codes, place))

    def take(self, data: bytes, place: str = "", **more: str) -> Receipt:
        """The clock stands at the end of the file."""
        file = self.offered.put(place or self.chest, "log.csv", data)
        values = {"order": "ymd", "unit": "C", "zone": "UTC"} | more
        self.clock.at = max(self.clock.at, NOON + timedelta(days=40))
        order = TakeLog(file.token, **values)
        return temperature.take_log(self.ctx, self.offered, self.key(), order)

    def hold(self, code: str = "") -> RawHold:
        return freezer.find_bag(self.ctx, code or self.code).hold

    def now(self, code: str = "") -> bags.records.BagNow:
        return freezer.find_bag(self.ctx, code or self.code).row.now

    def undo(self, done: Receipt) -> Receipt:
        order = undo.UndoRow(done.subject_kind, done.subject_id)
        return undo.undo_row(self.ctx, self.key(), order)


class HoldTest(LogTest):
    def test_a_cold_week_proves_it_and_the_bag_says_from_when(self) -> None:
        self.assertEqual(self.hold().verdict.state, "no log")
        done = self.take(rows((9 * 24, -24.0)))
        self.assertIn("1 raw hold proved", done.sentence)
        proved = self.hold().proved_at
        self.assertGreater(proved, NOON + timedelta(days=7, hours=4))
        self.assertLess(proved, NOON + timedelta(days=8))
        self.assertEqual(self.now().raw_from, proved)

    def test_undone_it_proves_nothing_any_more(self) -> None:
        done = self.take(rows((9 * 24, -24.0)))
        self.undo(done)
        self.assertIsNone(self.now().raw_from)
        self.assertEqual(self.hold().verdict.state, "no log")
        with self.assertRaisesRegex(Conflict, "undone already"):
            self.undo(done)

    def test_the_other_rule_asks_a_day_and_a_freezer_at_minus_18_never_counts(self) -> None:
        self.take(rows((3 * 24, -24.0)))
        self.assertIsNone(self.now().raw_from)
        self.assertEqual(self.hold().verdict.state, "running")
        chosen = holds.choose_rule(self.ctx, self.key(), holds.ChooseRule("eu"))
        self.assertIn("EU", chosen.sentence)
        self.assertLess(self.now().raw_from, NOON + timedelta(days=2))
        self.put(self.chest, other := self.sealed())
        self.assertIsNone(self.now(other).raw_from)
        with self.assertRaises(Refused):
            holds.choose_rule(self.ctx, self.key(), holds.ChooseRule("mine"))

    def test_minus_18_is_told_plainly(self) -> None:
        self.take(rows((30 * 24, -18.0)))
        self.assertEqual(self.hold().verdict.state, "never")

    def test_kinds_never_eaten_raw_exempt_ones_and_what_was_seen_stay_so(self) -> None:
        conger = self.sealed("conger", 120, 0.5)
        tuna = self.sealed("albacore", 80, 0.5)
        gutcut = self.sealed()
        findings.note_sight(self.ctx, self.key(), findings.NoteSight(self.fish, "gut_cut"))
        self.put(self.chest, conger, tuna, gutcut)
        done = self.take(rows((9 * 24, -24.0)))
        self.assertIn("1 raw hold proved", done.sentence)
        self.assertTrue(self.hold(conger).never)
        self.assertTrue(self.hold(tuna).exempt)
        self.assertTrue(self.hold(gutcut).never)
        self.assertIsNone(self.now(conger).raw_from)
        holds.choose_rule(self.ctx, self.key(), holds.ChooseRule("eu"))
        self.assertFalse(self.hold(tuna).exempt)

    def test_a_bag_that_went_in_later_counts_from_then(self) -> None:
        self.clock.advance(days=5)
        late = self.sealed()
        self.put(self.chest, late)
        self.take(rows((9 * 24, -24.0)))
        self.assertIsNotNone(self.now().raw_from)
        self.assertIsNone(self.now(late).raw_from)
        self.take(rows((9 * 24, -24.0), start=NOON + timedelta(days=9)))
        self.assertGreater(self.now(late).raw_from, NOON + timedelta(days=12))

    def test_moved_to_a_place_without_a_log_or_taken_out_the_clock_does_not_run_on(self) -> None:
        self.take(rows((3 * 24, -24.0)))
        self.assertEqual(self.hold().verdict.state, "running")
        self.assertAlmostEqual(
            self.hold().known_until, NOON + timedelta(days=3), delta=timedelta(minutes=6)
        )
        kitchen = places.add_place(self.ctx, self.key(), places.AddPlace("kitchen")).subject_id
        self.clock.at = NOON + timedelta(days=3)
        moved = self.put(kitchen, self.code)
        found = self.hold()
        self.assertEqual((found.verdict.state, found.due_at), ("no log", None))
        self.undo(moved)
        self.assertEqual(self.hold().verdict.state, "running")
        moves.take_out(self.ctx, self.key(), moves.TakeOut((self.code,)))
        self.assertEqual((self.hold().verdict.state, self.hold().due_at), ("no log", None))
        # a freezer that goes on being cold proves nothing of a bag that is not in it
        self.take(rows((9 * 24, -24.0), start=NOON + timedelta(days=3)))
        self.assertIsNone(self.hold().proved_at)

    def test_undoing_a_move_takes_back_what_it_proved(self) -> None:
        # what the log says of a place holds only while the bag's history says that it lay there
        bag = self.sealed()
        moved = self.put(self.chest, bag)
        self.take(rows((9 * 24, -24.0)))
        self.assertIsNotNone(self.now(bag).raw_from)
        self.undo(moved)
        self.assertIsNone(self.now(bag).raw_from)


class StaysTest(LogTest):
    def test_each_stay_ends_when_the_bag_goes_on(self) -> None:
        at = [NOON + timedelta(hours=h) for h in (0, 5, 9)]
        with self.ctx.store.reading():
            bag = bags.by_code(self.code.replace("-", ""))
            (first,) = [move for move, stands in bags.moves_of(bag.id) if stands]
            thrice = [first._replace(at=moment) for moment in at]
            found = cold_records.stays_of(self.ctx, cold_records.all_logs(), bag, thrice)
        ends = [cold_records.minute_of(moment) for moment in (at[1], at[2])]
        self.assertEqual([stay.end for stay in found[:2]], ends)
        self.assertEqual([stay.follows for stay in found[:2]], [False, True])


class FolderTest(LogTest):
    """Files that loggers write into a folder, each by the name of its place."""

    def setUp(self) -> None:
        super().setUp()
        self.logs = LogFolder(self.folder / "logs")
        self.clock.at = NOON + timedelta(days=2)

    def write(self, data: bytes, name: str = "Chest.csv") -> None:
        self.logs.path.mkdir(exist_ok=True)
        (self.logs.path / name).write_bytes(data)

    def readings(self) -> list[int]:
        return [row.readings for row in place_view.view_place(self.ctx, self.chest).logs]

    def test_what_is_new_in_a_file_is_taken_in_once(self) -> None:
        self.assertEqual(self.logs.look(self.ctx), 0)  # no such folder
        self.write(rows((5, -20.0)))
        self.assertEqual((self.logs.look(self.ctx), self.readings()), (1, [60]))
        self.assertEqual((self.logs.look(self.ctx), self.readings()), (0, [60]))
        self.write(rows((5, -20.0), (1, -21.0)))
        self.assertEqual((self.logs.look(self.ctx), self.readings()), (1, [60, 12]))
        again = LogFolder(self.logs.path)  # the app was restarted
        self.assertEqual((again.look(self.ctx), self.readings()), (1, [60, 12]))
        self.assertIn("nothing new", again.said[self.chest][1])

    def test_a_file_that_does_not_tell_its_unit_waits_until_it_is_confirmed_once(self) -> None:
        plain = rows((5, -20.0)).replace("temp °C".encode(), b"value")
        self.write(plain)
        self.logs.look(self.ctx)
        self.assertEqual(self.readings(), [])
        self.assertIn("°C or °F", self.logs.said[self.chest][1])
        self.take(plain)
        self.write(rows((5, -20.0), (1, -21.0)).replace("temp °C".encode(), b"value"))
        self.logs.look(self.ctx)
        self.assertEqual(self.readings(), [60, 12])

    def test_a_file_of_each_day_is_taken_in_by_halves_of_an_hour_and_none_is_lost(self) -> None:
        day = NOON.replace(hour=0)
        lines = rows((24 * 2, -20.0), start=day).splitlines(keepends=True)
        names = [f"chest {day + timedelta(days=n):%Y-%m-%d}.csv" for n in (0, 1)]
        for upto in range(2, len(lines) + 1, 3):  # looked at each quarter of an hour
            head, first, second = lines[0], lines[1 : min(upto, 289)], lines[289:upto]
            self.write(b"".join((head, *first)), names[0])
            if second:
                self.write(b"".join((head, *second)), names[1])
            self.logs.look(self.ctx)
        found = self.readings()
        self.assertLess(len(found), 100)
        self.assertGreater(sum(found), 2 * 288 - 8)  # the rest waits for its half hour
        self.write(b"".join((lines[0], *lines[289:])), names[1])
        with mock.patch.object(log_folder, "OFTEN_S", 0):
            self.logs.look(self.ctx)
        self.assertEqual(sum(self.readings()), 2 * 288)

    def test_files_of_no_place_and_broken_ones_leave_nothing(self) -> None:
        self.write(rows((5, -20.0)), "shed.csv")
        self.write(rows((5, -20.0)), "chest.jpg")
        self.write(b"hello")
        self.assertEqual((self.logs.look(self.ctx), self.readings()), (1, []))
        self.assertIn("is this a logger", self.logs.said[self.chest][1])

    def test_a_file_that_has_grown_too_large_is_left_and_said_so(self) -> None:
        self.write(rows((5, -20.0)))
        two_mb = 2 * 1024 * 1024
        with mock.patch.object(log_folder, "MAX_BYTES", two_mb):
            self.write(rows((5, -20.0)) + b"\n" * two_mb)
            self.assertEqual((self.logs.look(self.ctx), self.readings()), (1, []))
            self.assertIn("over 2 MB", self.logs.said[self.chest][1])
            self.write((rows((5, -20.0)) + b"\n" * two_mb)[:two_mb])
            self.logs.look(self.ctx)
            self.assertNotIn("over 2 MB", self.logs.said[self.chest][1])


class LabelTest(LogTest):
    def label(self) -> list[str]:
        bag = freezer.find_bag(self.ctx, self.code).row.bag
        return list(label_station.label_of(self.ctx, bag.id).cautions)

    def test_it_says_raw_from_only_when_the_log_proves_it(self) -> None:
        fish = self.land(self.trip, "cod", 70).subject_id
        wish = wishes.WishForFish(fish, Said(purpose="raw"))
        wishes.wish_for_fish(self.ctx, self.key(), wish)
        bag = self.seal(self.weigh(fish, "fillet.A", 0.4).subject_id).subject_id
        self.code = self.code_of(bag)
        self.put(self.chest, self.code)
        self.assertFalse([line for line in self.label() if "Raw from" in line])
        self.assertTrue([line for line in self.label() if "no parasite hold" in line])
        self.take(rows((9 * 24, -24.0)))
        self.assertIn("Raw from 21 Jul 2026.", self.label())
        self.assertFalse([line for line in self.label() if "no parasite hold" in line])


class KeepingTest(LogTest):
    def test_a_warm_week_makes_it_due_sooner_by_as_much_as_the_table_says(self) -> None:
        label = self.now().best_by
        done = self.take(rows((24, -18.0), (20 * 24, -12.0), (24, -18.0)))
        self.assertIn("1 bag due sooner", done.sentence)
        now = self.now()
        expected = 20 * (float(pace(-12.0, "lean")) - 1)
        self.assertAlmostEqual(now.lost_days, expected, delta=1.5)
        self.assertEqual(now.best_by, label - timedelta(days=now.lost_days))
        found = place_view.view_place(self.ctx, self.drawer)
        self.assertEqual([show_code(bag.code) for bag, _ in found.sooner], [self.code])
        self.assertEqual(found.spell.advice, "hard")
        self.undo(done)
        self.assertEqual(self.now().best_by, label)

    def test_a_colder_freezer_never_moves_the_label_s_date_later(self) -> None:
        label = self.now().best_by
        self.take(rows((30 * 24, -28.0)))
        self.assertEqual((self.now().best_by, self.now().lost_days), (label, 0))

    def test_due_first_follows_the_moved_dates(self) -> None:
        other = self.sealed()
        kitchen = places.add_place(self.ctx, self.key(), places.AddPlace("kitchen")).subject_id
        self.put(kitchen, other)
        self.take(rows((24, -18.0), (20 * 24, -12.0)), kitchen)
        rows_ = freezer.view_freezer(self.ctx).rows
        self.assertEqual([r.code for r in rows_], [other, self.code])

    def test_what_to_do_after_a_power_cut_follows_how_warm_the_bags_got(self) -> None:
        for hours, celsius, advice in (
            (10, -14.0, "hard"),
            (12, -6.0, "soft"),
            (12, 2.0, "thawed"),
            (12, 12.0, "warm"),
        ):
            with self.subTest(celsius=celsius):
                done = self.take(rows((24, -22.0), (hours, celsius), (4, -22.0)))
                found = place_view.view_place(self.ctx, self.chest)
                self.assertIsNone(found.spell)  # nothing lies there
                found = place_view.view_place(self.ctx, self.drawer)
                self.assertEqual(found.spell.advice, advice)
                self.undo(done)

    def test_gaps_are_shown_and_take_nothing_off(self) -> None:
        done = self.take(rows((24, -18.0), (48, None), (30, -18.0)))
        self.assertIn("1 gap", done.sentence)
        found = place_view.view_place(self.ctx, self.drawer)
        self.assertEqual((found.gaps, found.line.gaps), (1, 0))
        self.assertEqual(self.now().lost_days, 0)


class TakeInTest(LogTest):
    def test_a_retry_takes_nothing_in_twice(self) -> None:
        file = self.offered.put(self.chest, "log.csv", rows((5, -20.0)))
        order, key = TakeLog(file.token, "ymd", "C", "UTC"), self.key()
        first = temperature.take_log(self.ctx, self.offered, key, order)
        again = temperature.take_log(self.ctx, self.offered, key, order)
        self.assertEqual((again.subject_id, again.repeated), (first.subject_id, True))
        self.assertEqual(len(place_view.view_place(self.ctx, self.chest).logs), 1)

    def test_files_that_lie_leave_nothing(self) -> None:
        back = rows((2, -20.0)) + b"\n2026-07-14T12:00:00Z,-20\n"
        for data, more, sentence in (
            (back, {}, "clock goes back"),
            (rows((2, -20.0)), {"zone": "Skarrow/Quay"}, "not a time zone"),
            (rows((2, -20.0)), {"unit": "K"}, "°C or °F"),
            (rows((2, -20.0), start=NOON + timedelta(days=90)), {}, "order of dates right"),
        ):
            with self.subTest(sentence=sentence), self.assertRaisesRegex(Refused, sentence):
                self.take(data, **more)
        with self.assertRaisesRegex(Refused, "once more"):
            temperature.take_log(
                self.ctx, self.offered, self.key(), TakeLog("gone", "ymd", "C", "UTC")
            )
        self.assertEqual(place_view.view_place(self.ctx, self.chest).logs, ())

    def test_a_retry_after_a_new_start_of_the_app_is_answered_though_the_file_is_gone(self) -> None:
        file = self.offered.put(self.chest, "log.csv", rows((5, -20.0)))
        order, key = TakeLog(file.token, "ymd", "C", "UTC"), self.key()
        self.clock.advance(days=1)
        first = temperature.take_log(self.ctx, self.offered, key, order)
        again = temperature.take_log(self.ctx, OfferedLogs(), key, order)
        self.assertEqual((again.subject_id, again.repeated), (first.subject_id, True))

    def test_a_reading_of_long_ago_is_a_date_read_wrongly(self) -> None:
        old = rows((1, -20.0), start=datetime(1969, 7, 1, tzinfo=UTC))
        with self.assertRaisesRegex(Refused, "order of dates right"):
            self.take(old)

    def test_a_reading_at_the_end_of_all_years_is_refused_in_words(self) -> None:
        order = temperature.TakeReadings(self.chest, "x", (0, 253_402_300_800), (-20.0, -20.0))
        for at_s in (order.at_s, (253_402_300_799, 253_402_300_800)):
            with self.assertRaisesRegex(Refused, "order of dates right"):
                temperature.take_readings(self.ctx, self.key(), replace(order, at_s=at_s))

    def test_a_log_of_some_minutes_is_taken_in_where_bags_lie(self) -> None:
        for minutes in (1, 59, 61):
            start = NOON + timedelta(hours=minutes)
            at_s = tuple(int(start.timestamp()) + 60 * n for n in range(minutes))
            self.clock.at = start + timedelta(hours=2)
            order = temperature.TakeReadings(self.chest, "x", at_s, (-22.0,) * minutes)
            temperature.take_readings(self.ctx, self.key(), order)
        self.assertEqual(self.now().lost_days, 0)
        self.assertEqual(len(place_view.view_place(self.ctx, self.drawer).logs), 3)

    def test_readings_of_a_place_reach_over_ten_years_at_most(self) -> None:
        now, old = int(NOON.timestamp()), int(NOON.timestamp()) - 11 * 366 * 86_400
        for at_s in ((old, old + 60, now), (now - 60, now)):
            order = temperature.TakeReadings(self.chest, "x", at_s, (-22.0,) * len(at_s))
            if len(at_s) == 3:
                with self.assertRaisesRegex(Refused, "over ten years"):
                    temperature.take_readings(self.ctx, self.key(), order)
            else:
                temperature.take_readings(self.ctx, self.key(), order)
        late = temperature.TakeReadings(self.chest, "x", (old, old + 60), (-22.0, -22.0))
        with self.assertRaisesRegex(Refused, "over ten years"):
            temperature.take_readings(self.ctx, self.key(), late)
        self.assertEqual(len(place_view.view_place(self.ctx, self.chest).logs), 1)

    def test_only_the_last_files_wait(self) -> None:
        tokens = [
            self.offered.put(self.chest, "x", rows((2, float(-c)))).token for c in range(20, 25)
        ]
        self.assertEqual(self.offered.get(tokens[-1])[0].token, tokens[-1])
        with self.assertRaises(Refused):
            self.offered.get(tokens[0])

    def test_a_logger_is_read_from_where_it_was_read_last(self) -> None:
        with self.assertRaisesRegex(Refused, "does not answer"):
            temperature.read_logger(self.ctx, self.key(), ReadLogger(self.chest))
        logger = SimulatedLogger(lambda: self.clock().timestamp(), self.ctx.rng)
        self.ctx = replace(self.ctx, logger=logger)
        logger.set_to(-21)
        logger.power_cut(6, ago_h=10)
        first = temperature.read_logger(self.ctx, self.key(), ReadLogger(self.chest))
        self.assertIn("readings", first.sentence)
        with self.assertRaisesRegex(Refused, "Nothing new"):
            temperature.read_logger(self.ctx, self.key(), ReadLogger(self.chest))
        self.clock.advance(minutes=30)
        second = temperature.read_logger(self.ctx, self.key(), ReadLogger(self.chest))
        self.assertIn("30 readings", second.sentence)
        # carried to another place it tells nothing of the time before
        other = places.add_place(self.ctx, self.key(), places.AddPlace("kitchen")).subject_id
        with self.assertRaisesRegex(Refused, "Nothing new"):
            temperature.read_logger(self.ctx, self.key(), ReadLogger(other))
        line = place_view.view_place(self.ctx, self.drawer).line
        self.assertEqual(line.gaps, 0)
        self.assertGreater(line.high_c, -16)
        self.assertEqual(line.until, datetime.fromtimestamp(self.clock().timestamp() + 60, UTC))

    def test_places_cannot_be_in_themselves_and_unknown_ones_are_told(self) -> None:
        order = places.SayPlace(self.chest, -20, 0, "still", "metric", "freezer", self.drawer)
        with self.assertRaisesRegex(Refused, "inside itself"):
            places.say_place(self.ctx, self.key(), order)
        with self.assertRaises(Unknown):
            place_view.view_place(self.ctx, "nowhere")
        with self.assertRaises(Refused):
            places.say_place(self.ctx, self.key(), replace(order, within_id="", kind="bath"))

    def test_what_is_in_a_place_is_drawn_after_it(self) -> None:
        kitchen = places.add_place(self.ctx, self.key(), places.AddPlace("kitchen")).subject_id
        inner = places.add_place(self.ctx, self.key(), places.AddPlace("tray")).subject_id
        self.say(inner, -24, "shelf", self.drawer)
        found = [(b.place.id, b.depth) for b in freezer.view_freezer(self.ctx).boxes]
        self.assertEqual(found, [(self.chest, 0), (self.drawer, 1), (inner, 2), (kitchen, 0)])
        (alone,) = freezer.view_freezer(self.ctx, "", self.drawer).boxes
        self.assertEqual(alone.depth, 0)

    def test_places_that_an_undo_put_into_one_another_are_drawn_all_the_same(self) -> None:
        freed = places.say_place(
            self.ctx, self.key(), places.SayPlace(self.drawer, -24, 0, "still")
        )
        self.say(self.chest, -24, "drawer", self.drawer)
        self.undo(freed)
        found = [b.place.id for b in freezer.view_freezer(self.ctx).boxes]
        self.assertEqual(sorted(found), sorted([self.chest, self.drawer]))
        place_view.view_place(self.ctx, self.chest)

    def test_how_long_it_keeps_without_power_needs_litres_and_bags(self) -> None:
        found = place_view.view_place(self.ctx, self.drawer)
        self.assertGreater(found.outage.hours_to[-5.0], 1)
        self.assertIsNone(place_view.view_place(self.ctx, self.chest).outage)  # empty

    def test_warm_bags_are_said_to_thaw_their_neighbours(self) -> None:
        small = places.SayPlace(self.drawer, -20, 20, "still")
        places.say_place(self.ctx, self.key(), small)
        for _ in range(3):
            self.sealed("cod", 90, 1.5)
        boxes = {b.place.id: b for b in freezer.view_freezer(self.ctx, self.trip).boxes}
        self.assertGreater(boxes[self.drawer].tonight.neighbours_c, -12)
        self.assertIsNone(boxes[self.chest].tonight.neighbours_c)
