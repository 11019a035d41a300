"""Loggers' files: written in many ways, and files that lie."""

import unittest
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from lepidos.core.errors import BadInput
from lepidos.exchange.logger_csv import TakenLog, read_log
from lepidos.exchange.logger_layout import confirmed, first_reading, layout_of
from lepidos.exchange.text_files import text_of

BERLIN, LONDON = ZoneInfo("Europe/Berlin"), ZoneInfo("Europe/London")


def take(data: str | bytes, order: str = "", unit: str = "", zone: ZoneInfo = BERLIN) -> TakenLog:
    """As somebody would confirm it: what the file tells, and else what is given."""
    text = text_of(data.encode() if isinstance(data, str) else data)
    layout = layout_of(text)
    return read_log(text, confirmed(layout, layout.order or order, layout.unit or unit), zone)


def at(*parts: int) -> int:
    return int(datetime(*parts, tzinfo=UTC).timestamp())


class WrittenTest(unittest.TestCase):
    """Each of these says: −20 °C at noon and −21 °C five minutes later, 13 July 2026, UTC."""

    def test_the_same_readings_in_many_hands(self) -> None:
        for data in (
            "time,temp °C\n2026-07-13T12:00:00Z,-20.0\n2026-07-13T12:05:00Z,-21.0\n",
            "time,temp (C)\n2026-07-13 14:00,-20.0\n2026-07-13 14:05,-21\n",
            "Zeit;Temperatur °C\n13.07.2026 14:00:00;-20,0\n13.07.2026 14:05:00;-21,0\n",
            "No.\tDate\tTime\tTemperature °F\n1\t07/13/2026\t2:00 PM\t-4.0\n2\t07/13/2026\t2:05 PM\t-5.8\n",
            "Logger 7\nserial 44\n\n#,Date,Time,Humidity,Temp C\n1,13/07/26,14:00,40,-20\n2,13/07/26,14:05,41,-21\n",
            '"time","value"\n"2026-07-13 14:00:00","-20.0 °C"\n"2026-07-13 14:05:00","-21.0 °C"\n',
            "time|temp °C\n2026-07-13 14:00|−20.0\n2026-07-13 14:05|−21.0\n",
        ):
            with self.subTest(data=data):
                found = take(data)
                self.assertEqual(
                    list(found.log.at_s), [at(2026, 7, 13, 12), at(2026, 7, 13, 12, 5)]
                )
                self.assertEqual([round(c, 6) for c in found.log.celsius], [-20, -21])
                self.assertEqual(found.notes, ())

    def test_letters_of_other_kinds(self) -> None:
        text = "time;temp °C\r\n2026-07-13 14:00;-20,0\r\n2026-07-13 14:05;-21,0\r\n"
        for data in (
            text.encode("utf-16"),
            text.encode("utf-16-le"),
            text.encode("cp1252"),
            text.encode("utf-8-sig"),
        ):
            with self.subTest(data=data[:12]):
                self.assertEqual(len(take(data).log), 2)

    def test_what_the_text_does_not_tell_is_asked(self) -> None:
        data = "time,temp\n03/04/2026 13:00,-4\n03/04/2026 13:05,-5\n"
        layout = layout_of(data)
        self.assertEqual((layout.order, layout.unit), (None, None))
        with self.assertRaisesRegex(BadInput, "order of the dates"):
            read_log(data, layout, BERLIN)
        dmy, mdy = take(data, "dmy", "C"), take(data, "mdy", "F")
        self.assertEqual(dmy.log.at_s[0], at(2026, 4, 3, 11))
        self.assertEqual(mdy.log.at_s[0], at(2026, 3, 4, 12))
        self.assertAlmostEqual(mdy.log.celsius[0], -20)

    def test_the_order_of_dates_shows_in_a_log_of_some_days(self) -> None:
        days = "".join(f"0{d}/05/2026 12:00,-20\n" for d in range(1, 5))
        self.assertEqual(layout_of("time,temp °C\n" + days).order, "dmy")

    def test_an_hour_that_comes_twice_in_autumn_is_not_a_clock_set_back(self) -> None:
        rows = [
            "2026-10-25 01:50",
            "2026-10-25 02:20",
            "2026-10-25 02:50",
            "2026-10-25 02:20",
            "2026-10-25 02:50",
            "2026-10-25 03:20",
        ]
        found = take("t,°C\n" + "".join(f"{r},-20\n" for r in rows))
        steps = {int(b - a) for a, b in zip(found.log.at_s, found.log.at_s[1:], strict=False)}
        self.assertEqual(steps, {1800})


class LiesTest(unittest.TestCase):
    def refused(self, data: str | bytes, sentence: str) -> None:
        with self.assertRaisesRegex(BadInput, sentence):
            take(data, "ymd", "C")

    def test_a_clock_set_back(self) -> None:
        self.refused(
            "t,°C\n2026-07-13 14:00,-20\n2026-07-13 15:00,-20\n2026-07-13 13:00,-20\n",
            "Line 4: the logger's clock goes back, from 2026-07-13 15:00 to 2026-07-13 13:00",
        )

    def test_a_sensor_whose_cable_is_out(self) -> None:
        found = take(
            "t,°C\n2026-07-13 14:00,-20\n2026-07-13 14:05,-127\n2026-07-13 14:10,---\n2026-07-13 14:15,-20\n"
        )
        self.assertEqual(len(found.log), 2)
        self.assertIn("2 readings", found.notes[0])
        self.refused("t,°C\n2026-07-13 14:00,-127\n2026-07-13 14:05,-127\n", "No reading is left")

    def test_a_line_that_broke_off(self) -> None:
        found = take("t,°C\n2026-07-13 14:00,-20\n2026-07-13 14:05,-21\n2026-07-13 14:1")
        self.assertEqual(len(found.log), 2)
        self.assertIn("broke off", found.notes[0])

    def test_stamps_that_stand_twice(self) -> None:
        found = take(
            "t,°C\n2026-07-13 14:00,-20\n2026-07-13 14:05,-21\n2026-07-13 14:05,-15\n2026-07-13 14:10,-20\n"
        )
        self.assertEqual(list(found.log.celsius), [-20, -15, -20])
        self.assertIn("1 stamp", found.notes[0])

    def test_what_cannot_be(self) -> None:
        self.refused("t,°C\n2026-07-13 14:00,-20\n2026-07-13 14:05,451\n", "Line 3: 451 °C")
        self.refused(
            "t,°C\n2026-07-13 14:00,-20\n2026-07-99 14:05,-20\n",
            "Line 3: “2026-07-99 14:05” is not a date",
        )
        self.refused("a recipe\nfor soup\n", "No line has a date")
        self.refused(b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\x01", "no text")
        self.refused("", "No line has a date")

    def test_a_line_with_other_columns_is_named_and_none_is_left_out_unsaid(self) -> None:
        self.refused(
            "t,°C\n2026-07-13 14:00,-20\n2026-07-13 14:05,-21,7,9,9\n2026-07-13 14:10,-20\n",
            "Line 3 has other columns",
        )

    def test_what_would_be_read_first_is_shown(self) -> None:
        text = "#;Date;Time;T °C\n1;13.07.2026;14:00;-20,5\n2;13.07.2026;14:05;-20,5\n"
        self.assertEqual(first_reading(text, layout_of(text)), ("13.07.2026 14:00", "-20,5"))

    def test_fahrenheit_taken_for_celsius_is_seen_where_it_can_be(self) -> None:
        with self.assertRaisesRegex(BadInput, "cannot be a freezer's air"):
            take("t,x\n2026-07-13 14:00,-4\n2026-07-13 14:05,68\n", "ymd", "C")
