"""Money: amounts shared out to the smallest coin, and what a portion and a kilogram cost.

Amounts are whole numbers of the currency's smallest coin: no sum is ever rounded away.
"""

from collections.abc import Sequence
from decimal import ROUND_HALF_EVEN, Decimal, InvalidOperation
from fractions import Fraction

from lepidos.core.errors import BadInput, require

MAX_COINS = 10_000_000_00
MAX_LENGTH = 20


def share_out(coins: int, weights: Sequence[float]) -> tuple[int, ...]:
    """An amount in proportion to weights, none below 0; all equal when every weight is 0.

    Each gets its share rounded down; the coins that are left go one by one to those who lost most
    by that, the first of equals first (largest remainders).

    Raises: OutOfRange for no weights, a negative one, or an amount that cannot be.
    Example:
        >>> share_out(1000, [1, 1, 1])
        (334, 333, 333)
    """
    require("amount", coins, 0, MAX_COINS, "")
    require("number of shares", len(weights), 1, 1000, "")
    for weight in weights:
        require("weight of a share", weight, 0, 1e12, "")
    exact = [Fraction(w) for w in weights]
    if not any(exact):
        exact = [Fraction(1)] * len(weights)
    total = sum(exact)
    due = [coins * w / total for w in exact]
    got = [int(d) for d in due]
    left = coins - sum(got)
    most_lost = sorted(range(len(due)), key=lambda i: (got[i] - due[i], i))
    for i in most_lost[:left]:
        got[i] += 1
    return tuple(got)


def read_amount(text: str, digits: int = 2) -> int:
    """An amount as a person types it, in the smallest coin: "12", "12.50", "12,50", "1 200".

    Args: digits: of the currency after its point, 0 to 3.
    Raises: BadInput when it is no amount, is negative, or has more digits than the currency.
    Example:
        >>> read_amount("12,50")
        1250
    """
    require("digits of the currency", digits, 0, 3, "")
    clean = text.strip().replace("\u00a0", "").replace(" ", "").replace(",", ".")
    if not clean or len(clean) > MAX_LENGTH:
        raise BadInput("Give an amount, such as 12.50")
    try:
        value = Decimal(clean)
    except InvalidOperation as error:
        raise BadInput(f"“{text[:MAX_LENGTH]}” is not an amount, such as 12.50") from error
    if not value.is_finite() or value < 0:
        raise BadInput("An amount is 0 or more")
    coins = value.scaleb(digits)
    if coins != coins.to_integral_value():
        raise BadInput(f"This currency has {digits} digits after the point")
    if coins > MAX_COINS:
        raise BadInput("That is more than Lepidos reckons with")
    return int(coins)


def show_amount(coins: int, currency: str = "", digits: int = 2) -> str:
    """As it is written: "12.50 EUR".

    >>> show_amount(1250, "EUR"), show_amount(5)
    ('12.50 EUR', '0.05')
    """
    text = f"{Decimal(coins).scaleb(-digits):.{digits}f}"
    return f"{text} {currency}".strip()


def each(coins: int, number: float) -> int | None:
    """What one of so many costs, to the nearest coin; None of none.

    >>> each(1000, 3)
    333
    """
    if number <= 0:
        return None
    exact = Fraction(coins) / Fraction(number)
    cost = Decimal(exact.numerator) / Decimal(exact.denominator)
    return int(cost.to_integral_value(ROUND_HALF_EVEN))
