"""The crew's money: its currency, and how amounts of it are written."""

from lepidos.core.pack.costs import show_amount
from lepidos.stations.base.context import AppContext
from lepidos.store.base import settings

# Currencies without the usual two digits (ISO 4217, from memory); any three letters are taken.
DIGITS = {"JPY": 0, "KRW": 0, "ISK": 0, "CLP": 0, "KWD": 3, "BHD": 3, "TND": 3}
USUAL_CURRENCY = "EUR"


def currency() -> str:
    """The crew's. In an open transaction."""
    return settings.value(settings.CURRENCY) or USUAL_CURRENCY


def currency_now(ctx: AppContext) -> str:
    """`currency`, for a page."""
    with ctx.store.reading():
        return currency()


def digits_of(code: str) -> int:
    """Digits after a currency's point."""
    return DIGITS.get(code, 2)


def shown(coins: int, code: str) -> str:
    """An amount as it is written."""
    return show_amount(coins, code, digits_of(code))
