"""Units at the edges. Inside everything is SI: kg, m, s, °C.

Exact factors by definition: international yard and pound agreement of 1959, also in
NIST Special Publication 811, appendix B (1 lb = 0.453 592 37 kg, 1 in = 0.0254 m).
"""

import math
import re
from typing import Literal

from lepidos.core.errors import BadInput

System = Literal["metric", "imperial"]

LB_KG = 0.45359237  # exact: international yard and pound agreement, 1959
OZ_KG = LB_KG / 16
IN_M = 0.0254  # exact: international yard and pound agreement, 1959

HOUR_S = 3600
DAY_S = 24 * HOUR_S

MASS_KG = {"kg": 1.0, "g": 0.001, "lb": LB_KG, "oz": OZ_KG}
LENGTH_M = {"m": 1.0, "cm": 0.01, "mm": 0.001, "in": IN_M, "ft": 12 * IN_M}
_ALIASES = {
    **dict.fromkeys(["kgs", "kilo", "kilos"], "kg"),
    **dict.fromkeys(["gr", "gram", "grams"], "g"),
    **dict.fromkeys(["lbs", "pound", "pounds", "#"], "lb"),
    **dict.fromkeys(["ounce", "ounces"], "oz"),
    **dict.fromkeys(['"', "″", "inch", "inches"], "in"),
    **dict.fromkeys(["'", "′", "foot", "feet"], "ft"),
}
MASS_DEFAULT = {"metric": "kg", "imperial": "lb"}
LENGTH_DEFAULT = {"metric": "cm", "imperial": "in"}

_MAX_LENGTH = 40
_PART = re.compile(r"\s*(?P<number>\d+(?:[.,]\d+)?|[.,]\d+)\s*(?P<unit>[a-z#\"'″′]*)\s*", re.I)


def to_c(value: float, unit: str) -> float:
    """Temperature to °C from "c", "f" or "k".

    Raises: BadInput for another unit.
    Example:
        >>> round(to_c(212, "f"), 9), to_c(273.15, "k")
        (100.0, 0.0)
    """
    scales = {"c": (1.0, 0.0), "f": (5 / 9, -160 / 9), "k": (1.0, -273.15)}
    if unit.lower() not in scales:
        raise BadInput(f"“{unit}” is not a temperature unit; use c, f or k")
    slope, shift = scales[unit.lower()]
    return value * slope + shift


def from_c(celsius: float, unit: str) -> float:
    """Inverse of `to_c`. Raises: BadInput for another unit."""
    scales = {"c": (1.0, 0.0), "f": (1.8, 32.0), "k": (1.0, 273.15)}
    if unit.lower() not in scales:
        raise BadInput(f"“{unit}” is not a temperature unit; use c, f or k")
    slope, shift = scales[unit.lower()]
    return celsius * slope + shift


def convert(value: float, unit: str, to: str) -> float:
    """Any mass, length or temperature from one unit into another of the same kind.

    Raises:
        BadInput: a unit is unknown, or the two measure different things.
    Example:
        >>> round(convert(7.7, "lb", "kg"), 3)
        3.493
    """
    source, target = _known(unit), _known(to)
    for table in (MASS_KG, LENGTH_M):
        if source in table and target in table:
            return value * table[source] / table[target]
    if {source, target} <= {"c", "f", "k"}:
        return from_c(to_c(value, source), target)
    raise BadInput(f"{unit} and {to} do not measure the same thing")


def parse_mass_kg(text: str, system: System = "metric") -> float:
    """A mass as people write it: "2.91", "910 g", "6 lb 7 oz". A bare number is kg or lb.

    Returns: kg, finite and not negative. Zero is returned; whether it can be is for the caller.
    Raises: BadInput, with a sentence for the field.
    """
    return _parse(text, MASS_KG, MASS_DEFAULT[system], "weight", "kg, g, lb or oz")


def parse_length_m(text: str, system: System = "metric") -> float:
    """A length as people write it: "68", "68 cm", "26 3/4" is refused, "2 ft 3 in" is read.

    Returns: m. Raises: BadInput, with a sentence for the field.
    """
    return _parse(text, LENGTH_M, LENGTH_DEFAULT[system], "length", "cm, mm, m or in")


def parse_temperature_c(text: str, system: System = "metric") -> float:
    """A temperature as people write it: "12", "-1.5 C", "54 F". A bare number is °C or °F.

    Returns: °C. Raises: BadInput, with a sentence for the field.
    """
    cleaned = text.strip().replace("−", "-").replace("°", " ")
    found = re.fullmatch(r"([+-]?\d{1,3}(?:[.,]\d{1,3})?)\s*([cf]?)", cleaned[:_MAX_LENGTH], re.I)
    if not found or len(cleaned) > _MAX_LENGTH:
        raise BadInput("That is not a temperature; write a number, such as 12")
    unit = found[2].lower() or ("f" if system == "imperial" else "c")
    return to_c(float(found[1].replace(",", ".")), unit)


def format_temperature(celsius: float, system: System = "metric") -> str:
    """A temperature with its unit.

    >>> format_temperature(3.14), format_temperature(-1.0, "imperial")
    ('3.1 °C', '30.2 °F')
    """
    value, unit = (from_c(celsius, "f"), "°F") if system == "imperial" else (celsius, "°C")
    # + 0.0 turns a rounded minus zero into zero
    return f"{round(value, 1) + 0.0:.1f} {unit}".replace("-", "−")


def format_coarse(kg: float, system: System = "metric") -> str:
    """A mass that nobody knows to the gram, such as ice in a box.

    >>> format_coarse(32.16), format_coarse(2.43), format_coarse(32.16, "imperial")
    ('32 kg', '2.4 kg', '71 lb')
    """
    value, unit = (kg / LB_KG, "lb") if system == "imperial" else (kg, "kg")
    return f"{value:.0f} {unit}" if abs(value) >= 9.95 else f"{value + 0.0:.1f} {unit}"


def format_mass(kg: float, system: System = "metric") -> str:
    """A mass with its unit: grams below 1 kg, ounces below 1 lb.

    >>> format_mass(0.4583), format_mass(2.914), format_mass(2.914, "imperial")
    ('458 g', '2.91 kg', '6 lb 6.8 oz')
    """
    if system == "imperial":
        # round the whole in tenths of an ounce first, so that 15.96 oz becomes 1 lb and not 16 oz
        tenths = round(abs(kg) / OZ_KG * 10)
        pounds, ounces = divmod(tenths, 160)
        text = f"{pounds} lb {ounces / 10:.1f} oz" if pounds else f"{ounces / 10:.1f} oz"
        return f"−{text}" if kg < 0 and tenths else text
    grams = round(abs(kg) * 1000)
    text = f"{grams} g" if grams < 1000 else f"{abs(kg):.2f} kg"
    return f"−{text}" if kg < 0 and grams else text


def format_length(metres: float, system: System = "metric", places: int = 1) -> str:
    """A length with its unit. Whole centimetres lose their ".0" on request (places=0)."""
    if system == "imperial":
        return f"{metres / IN_M:.1f} in"
    return f"{metres * 100:.{places}f} cm"


def format_percent(share: float, places: int = 0) -> str:
    """A share, 0 to 1 and beyond, as a percentage.

    >>> format_percent(0.452, 1)
    '45.2 %'
    """
    return f"{share * 100:.{places}f} %"


def format_range(low_kg: float, high_kg: float, system: System = "metric") -> str:
    """Two masses as one range, the unit said once where it is the same."""
    low, high = format_mass(low_kg, system), format_mass(high_kg, system)
    low_unit, high_unit = low.split(" ", 1)[1], high.split(" ", 1)[1]
    if low_unit == high_unit:
        return f"{low.split(' ', 1)[0]} to {high}"
    return f"{low} to {high}"


def _known(unit: str) -> str:
    key = unit.strip().lower()
    key = _ALIASES.get(key, key)
    if key not in MASS_KG and key not in LENGTH_M and key not in {"c", "f", "k"}:
        raise BadInput(f"“{unit[:20]}” is not a unit Lepidos knows")
    return key


def _parse(text: str, table: dict[str, float], default: str, what: str, allowed: str) -> float:
    cleaned = text.strip()
    if not cleaned:
        raise BadInput(f"Give a {what}")
    if len(cleaned) > _MAX_LENGTH:
        raise BadInput(f"That is too long for a {what}; a number and a unit is enough")
    if re.fullmatch(r"[-−]\s*[\d.,].*", cleaned):
        raise BadInput(f"A {what} cannot be negative")
    if re.search(r"\d,\d{3}(?!\d)", cleaned):
        raise BadInput("Is that comma a decimal point? Write it with a point")
    total, at, smallest = 0.0, 0, math.inf
    while at < len(cleaned):
        part = _PART.match(cleaned, at)
        if not part:
            raise BadInput(f"“{cleaned}” is not a {what}; write a number, such as 2.4")
        unit = part["unit"].lower() or default
        unit = _ALIASES.get(unit, unit)
        if unit not in table:
            raise BadInput(f"A {what} is not in “{part['unit']}”; use {allowed}")
        if not part["unit"] and (at or part.end() < len(cleaned)):
            raise BadInput(f"Say the unit of every number in “{cleaned}”")
        if table[unit] >= smallest:
            raise BadInput(f"“{cleaned}” has its units in an odd order")
        smallest = table[unit]
        total += float(part["number"].replace(",", ".")) * table[unit]
        at = part.end()
    return total
