"""The demo's clock, whatever the machine's says."""

import unittest
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from ulid import ULID

from lepidos.demo.clock import demo_clock


class DemoClockTest(unittest.TestCase):
    def test_a_new_day_begins_in_the_early_afternoon_there(self) -> None:
        for hour in (0, 3, 13, 23):
            now = datetime(2026, 11, 26, hour, 30, tzinfo=UTC)
            for zone in (
                ZoneInfo("UTC"),
                ZoneInfo("Pacific/Auckland"),
                ZoneInfo("America/Anchorage"),
            ):
                there = demo_clock("", now, zone).astimezone(zone)
                self.assertEqual((there.hour, there.minute), (13, 10))
                self.assertEqual(there.date(), now.astimezone(zone).date())

    def test_a_day_goes_on_from_where_it_was_left(self) -> None:
        left = datetime(2026, 7, 14, 13, 25, 10, tzinfo=UTC)
        newest = str(ULID.from_datetime(left))
        found = demo_clock(newest, left + timedelta(days=30), ZoneInfo("UTC"))
        self.assertEqual(found, left + timedelta(minutes=1))
