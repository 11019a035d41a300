"""Units against pint, an independent library, and text as people type it."""

import math
import unittest

import pint
from hypothesis import given
from hypothesis import strategies as st

from lepidos.core import units
from lepidos.core.errors import BadInput

PINT = pint.UnitRegistry()
PINT_NAMES = {"in": "inch", "c": "degC", "f": "degF", "k": "kelvin"}


class ConversionTest(unittest.TestCase):
    def test_every_pair_of_units_agrees_with_pint(self) -> None:
        kinds = [tuple(units.MASS_KG), tuple(units.LENGTH_M), ("c", "f", "k")]
        for kind in kinds:
            for one in kind:
                for other in kind:
                    with self.subTest(one=one, other=other):
                        quantity = PINT.Quantity(37.5, PINT_NAMES.get(one, one))
                        theirs = quantity.to(PINT_NAMES.get(other, other)).magnitude
                        ours = units.convert(37.5, one, other)
                        self.assertTrue(math.isclose(ours, theirs, rel_tol=1e-12), (ours, theirs))

    def test_a_mass_is_no_length(self) -> None:
        with self.assertRaisesRegex(BadInput, "do not measure the same thing"):
            units.convert(1, "kg", "cm")

    def test_an_unknown_unit_is_named(self) -> None:
        with self.assertRaisesRegex(BadInput, "stone"):
            units.convert(1, "stone", "kg")
        with self.assertRaisesRegex(BadInput, "temperature"):
            units.to_c(1, "rankine")


class ParsingTest(unittest.TestCase):
    def test_reads_masses_as_people_write_them(self) -> None:
        cases = {
            "2.91": 2.91,
            "2,91 kg": 2.91,
            "910g": 0.910,
            "6 lb 7 oz": 6 * units.LB_KG + 7 * units.OZ_KG,
            "3 pounds": 3 * units.LB_KG,
            ".5": 0.5,
        }
        for text, kg in cases.items():
            with self.subTest(text=text):
                self.assertAlmostEqual(units.parse_mass_kg(text), kg, places=12)

    def test_a_bare_number_is_in_the_crews_units(self) -> None:
        self.assertAlmostEqual(units.parse_mass_kg("2", "imperial"), 2 * units.LB_KG)
        self.assertAlmostEqual(units.parse_length_m("20", "imperial"), 0.508)
        self.assertAlmostEqual(units.parse_length_m("2' 3\"", "imperial"), 27 * 0.0254)

    def test_says_what_is_wrong_at_the_field(self) -> None:
        cases = {
            "": "Give a length",
            "-4": "cannot be negative",
            "−4 cm": "cannot be negative",
            "abc": "is not a length",
            "nan": "is not a length",
            "inf": "is not a length",
            "1e5": "not in “e”",
            "37 kg": "not in “kg”",
            "3 4": "unit of every number",
            "3 in 2 ft": "odd order",
            "1,234": "decimal point",
            "9" * 1_000_000: "too long",
            "38 cm <script>": "is not a length",
        }
        for text, message in cases.items():
            with self.subTest(text=text[:20]), self.assertRaisesRegex(BadInput, message):
                units.parse_length_m(text)

    @given(st.floats(0.001, 900))
    def test_what_is_shown_in_grams_and_kilograms_reads_back_within_its_rounding(
        self, kg: float
    ) -> None:
        back = units.parse_mass_kg(units.format_mass(kg))
        self.assertLessEqual(abs(back - kg), 0.0005 if kg < 0.9995 else 0.0051)

    @given(st.floats(0.003, 400))
    def test_what_is_shown_in_pounds_and_ounces_reads_back_within_its_rounding(
        self, kg: float
    ) -> None:
        back = units.parse_mass_kg(units.format_mass(kg, "imperial"))
        self.assertLessEqual(abs(back - kg), 0.0501 * units.OZ_KG)


class TemperatureTest(unittest.TestCase):
    def test_reads_temperatures_in_the_crews_units(self) -> None:
        for text, system, celsius in (
            ("12", "metric", 12.0), ("−1.5 °C", "metric", -1.5), ("54", "imperial", 12.2222),
            ("54 F", "metric", 12.2222), ("12,5 c", "imperial", 12.5),
        ):  # fmt: skip
            with self.subTest(text=text):
                self.assertAlmostEqual(units.parse_temperature_c(text, system), celsius, places=3)

    def test_says_what_is_no_temperature(self) -> None:
        for text in ("warm", "nan", "1e3", "12 kg", "9999", "1" * 100_000):
            with (
                self.subTest(text=text[:10]),
                self.assertRaisesRegex(BadInput, "not a temperature"),
            ):
                units.parse_temperature_c(text)

    def test_shows_no_minus_zero(self) -> None:
        self.assertEqual(units.format_temperature(-0.01), "0.0 °C")
        self.assertEqual(units.format_temperature(-1.5), "−1.5 °C")


class FormattingTest(unittest.TestCase):
    def test_nothing_is_not_less_than_nothing(self) -> None:
        self.assertEqual(units.format_coarse(-0.0), "0.0 kg")

    def test_never_shows_sixteen_ounces(self) -> None:
        self.assertEqual(units.format_mass(units.LB_KG * 0.9999, "imperial"), "1 lb 0.0 oz")

    def test_negative_and_nothing(self) -> None:
        self.assertEqual(units.format_mass(-0.25), "−250 g")
        self.assertEqual(units.format_mass(-0.0001), "0 g")

    def test_a_range_says_its_unit_once(self) -> None:
        self.assertEqual(units.format_range(0.08, 0.11), "80 to 110 g")
        self.assertEqual(units.format_range(0.9, 1.1), "900 g to 1.10 kg")
