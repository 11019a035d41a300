"""How long frozen fish stays good to eat."""

import calendar
from datetime import date

from lepidos.core.errors import require
from lepidos.core.fish.species import Keeping


def add_months(day: date, months: int) -> date:
    """The same day of the month, or the month's last.

    Args: months 0 to 240.
    Raises: OutOfRange.
    Example:
        >>> add_months(date(2026, 8, 31), 6)
        datetime.date(2027, 2, 28)
    """
    require("months", months, 0, 240, "")
    year, month = divmod(day.month - 1 + months, 12)
    last = calendar.monthrange(day.year + year, month + 1)[1]
    return date(day.year + year, month + 1, min(day.day, last))


def best_by(packed: date, keeping: Keeping) -> date:
    """Best-by date of a sealed bag at −18 °C, by the species' fat class.

    A quality date and no safety date: FoodSafety.gov's cold food storage chart gives months of
    good eating, lean 6 to 8, fatty 2 to 3 (memory).
    """
    return add_months(packed, keeping.months)
