"""A bundle is a stranger's form: whatever it holds, no page falls, no start fails, no right is gained."""

import json
import os
import re
from functools import cache
from random import Random

from lepidos.core.errors import LepidosError
from lepidos.stations.boat.devices import digest_of_token, who_holds
from lepidos.stations.bundle.bring_in import BringIn, Coming, bring_in
from lepidos.stations.bundle.read import read_bundle
from lepidos.stations.undo.undo import UndoRow, undo_row
from lepidos.store.base import earlier
from lepidos.store.base.ids import IdMaker, clock_is_behind
from lepidos.store.file.database import Store
from tests.amount import much
from tests.app import NOON, AppTest
from tests.web import hostile
from tests.web.hostile import AT, Table
from tests.web.sweep import SweepTest

# 2,000 and more: LEPIDOS_HOSTILE=2000 python -m unittest tests.web.test_hostile
MERGES = int(os.environ.get("LEPIDOS_HOSTILE", much(300, 30)))
SEED = int(os.environ.get("LEPIDOS_SEED", "7"))
AT_ONCE = 5  # accepted merges between two looks at every page
BEGIN_ANEW = 40


@cache
def the_log() -> dict[str, Table]:
    """Made once; a new one each time, since who asks spoils it."""
    test = AppTest()
    test.setUp()
    try:
        return hostile.full_log(test)
    finally:
        test.doCleanups()


class HostileTest(SweepTest):
    def setUp(self) -> None:
        the_log()  # first: the store's tables belong to the file that was opened last
        super().setUp()

    def take(self, log: dict[str, Table]) -> None:
        """Merge it. Raises LepidosError when it is refused."""
        path = self.folder / "came.zip"
        path.write_bytes(hostile.zipped(log))
        staged, digest = read_bundle(self.ctx, path, self.folder / "came.log", lambda _t, _p: None)
        try:
            bring_in(
                self.ctx, self.key(), staged, BringIn(digest, "log.zip"), Coming("", "log.zip")
            )
        finally:
            staged.close()

    def refused(self, log: dict[str, Table], words: str) -> None:
        with self.assertRaisesRegex(LepidosError, words):
            self.take(log)

    def changed(self, table: str, **values: str) -> dict[str, Table]:
        """The log with other values in the first row of a table."""
        log = hostile.renewed(the_log(), Random(1))
        head, rows = log[table]
        for column, value in values.items():
            rows[0][head.index(column)] = value
        return log

    def restarts(self) -> None:
        """What a start reads of the file."""
        newest = self.ctx.store.newest_id()
        self.assertEqual(clock_is_behind(newest, NOON), "")
        self.assertLess(IdMaker(Random(1), newest).new(NOON), "02")

    def trips(self) -> list[str]:
        return sorted(set(re.findall(r"/trips/[0-9A-Z]{26}", self.page("/trips"))))

    def test_the_log_has_a_row_in_every_table_and_comes_in(self) -> None:
        empty = {name for name, (_, rows) in the_log().items() if not rows}
        self.assertEqual(empty, set())
        self.take(hostile.renewed(the_log(), Random(1)))
        self.assert_all_pages_answer(self.trips()[-1])

    def test_odd_values_in_any_column_break_no_page_and_no_start(self) -> None:
        spoiled = hostile.spoiled(the_log(), Random(SEED))
        accepted: list[str] = []
        told = refused = 0
        for n in range(MERGES):
            said, log = next(spoiled)
            try:
                self.take(log)
            except LepidosError as error:
                refused += 1
                self.assertRegex(str(error), r"\w")
                continue
            accepted.append(said)
            told += 1
            if len(accepted) < AT_ONCE and n < MERGES - 1:
                continue
            with self.subTest(after="\n".join(accepted)):
                for trip in self.trips()[-AT_ONCE:]:
                    self.assert_all_pages_answer(trip)
                self.restarts()
            accepted.clear()
            if told > BEGIN_ANEW:  # pages of all trips grow
                self.doCleanups()
                self.setUp()
                told = 0
        self.assertGreater(refused, MERGES // 4)

    def test_rights_tokens_and_settings_of_a_machine_are_never_read(self) -> None:
        token = "a" * 43
        log = hostile.renewed(the_log(), Random(1))
        ident, trip, party = (log[t][1][0][0] for t in ("place", "trip", "party"))
        digest = digest_of_token(token)
        log["device"] = (
            ["id", "name", "role", "party_id", "token", "at", "until", "withdrawn_at"],
            [[ident, "Mine", "crew", "", digest, AT, "2027-07-14T10:00:00.000Z", ""]],
        )
        log["setting"] = (["id", "name", "value", "at"], [[ident, "currency", "XXX", AT]])
        log["receipt_link"] = (
            ["id", "trip_id", "party_id", "token", "at"],
            [[ident, trip, party, "guessed-token", AT]],
        )
        self.take(log)
        self.assertIsNone(who_holds(self.ctx, token))
        with self.ctx.store.reading():
            for table in ("device", "setting", "receipt_link"):
                rows = self.ctx.store._database.execute_sql(
                    f"SELECT count(*) FROM {table}"
                ).fetchone()
                self.assertEqual(rows, (0,), table)

    def test_what_was_written_over_names_only_tables_and_columns_that_an_act_writes(self) -> None:
        device = {"id": "x", "name": "Mine", "role": "crew", "token": digest_of_token("a" * 43)}
        for table in ("entry", "weighing", "fish_now", "sqlite_schema", "nothing"):
            self.refused(
                self.changed("earlier", of_table=table, before=json.dumps(device)), "is no table"
            )
        for table in ("device", "setting", "receipt_link", "undo"):  # passed over
            log = hostile.renewed(the_log(), Random(1))
            head, rows = log["earlier"]
            rows[-1][head.index("of_table")] = table
            act = rows[-1][head.index("act")]
            self.take(log)
            with self.ctx.store.reading():
                self.assertNotIn(table, [row.of_table for row in earlier.of_act(act)])
            self.doCleanups()
            self.setUp()
        for before in (
            {"name) SELECT sql FROM sqlite_schema --": "x"},
            {"id": "x", "name": 7},
            {"id": "x", "name": None},
            [1],
            "x",
        ):
            self.refused(self.changed("earlier", before=json.dumps(before)), "data/earlier.csv")
        self.refused(self.changed("earlier", before="{"), "cannot be read")

    def test_an_act_on_a_table_of_rights_is_not_put_back_however_it_came_in(self) -> None:
        row = (
            "E1" + "0" * 24,
            "A1" + "0" * 24,
            "device",
            "D1",
            json.dumps({"id": "D1", "role": "crew"}),
            AT,
        )
        with self.ctx.store.writing():
            self.ctx.store._database.execute_sql(
                "INSERT INTO earlier VALUES (?, ?, ?, ?, ?, ?)", row
            )
        with self.assertRaisesRegex(LepidosError, "cannot be undone"):
            undo_row(self.ctx, self.key(), UndoRow("change", row[1]))

    def test_each_value_that_broke_a_page_or_a_start_is_refused_with_its_column(self) -> None:
        for table, column, value in (
            ("portion", "cuts", "null"), ("portion", "cuts", '["x"]'), ("portion", "share", "7"),
            ("weighing", "joint", "\x01"), ("weighing", "method", "x" * 60_000), ("meal", "codes", "[[1]]"),
            ("meal", "people", "-3"), ("rule_card", "length_type", "ell"), ("rule_card", "season_from", "13-40"),
            ("temperature_log", "last_at", "0001-01-01T00:00:00.000Z"), ("supply_count", "width_m", "1e300"),
            ("forecast", "kg", "1e300"), ("fish", "species", "<b>"), ("trip", "name", "x" * 60_000),
            ("trip", "sea_c", "999"), ("wish", "methods", "[]"), ("share_rule", "shares", '{"x": "y"}'),
            ("fish", "id", "7ZZZZZZZZZZZZZZZZZZZZZZZZZ"), ("bag", "best_by", "9999-12-31"),
        ):  # fmt: skip
            with self.subTest(column=f"{table}.{column}", value=value[:30]):
                self.refused(
                    self.changed(table, **{column: value}),
                    rf"data/{table}\.csv.*{column}|refers|belongs",
                )

    def test_a_row_of_next_year_does_not_come_in_before_all_that_follows(self) -> None:
        log = self.changed("place", id="01V" + "0" * 23)
        self.refused(log, "is still to come. Set the clock|belongs to")

    def test_a_key_that_no_calendar_has_stops_no_start(self) -> None:
        with self.ctx.store.writing():
            self.ctx.store._database.execute_sql(
                "INSERT INTO place VALUES (?, 'chest')", ["7" + "Z" * 25]
            )
        path = self.ctx.store.path
        self.client.__exit__(None, None, None)
        store = Store.open(path)
        self.addCleanup(store.close)
        self.assertEqual(clock_is_behind(store.newest_id(), NOON), "")
        IdMaker(Random(1), store.newest_id()).new(NOON)
        self.client.__enter__()
