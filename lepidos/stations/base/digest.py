"""What makes two orders the same: their named values, whatever they are called and shown in."""

import hashlib
import json
from dataclasses import fields, is_dataclass
from datetime import UTC, date, datetime

# Marks a field of an order that is no part of it: the units of the answer, how long it waited in a
# browser. A retry may differ in it and is the same order.
BESIDE = {"beside": True}
# Marks a field that counts at its default, too: orders that wait had to say it.
COUNTED = {"counted": True}
# Marks a field whose own fields the API takes as if they were the order's.
FLAT = {"flat": True}


def digest_of(order: object) -> str:
    """The SHA-256 of an order, a frozen dataclass of plain values, as 64 hexadecimal digits.

    A field at its default counts for nothing, so an order that waited while the app was renewed is
    the same after fields were added. Moments are the same in every time zone.

    Raises: TypeError for a value that is not plain.
    """
    text = json.dumps(_plain(order), sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def old_digest_of(order: object) -> str:
    """As files written before 2026-11-26 have it; for a retry that crosses the renewal."""
    return hashlib.sha256(repr(order).encode()).hexdigest()


def _plain(value: object) -> object:
    if is_dataclass(value) and not isinstance(value, type):
        named = {f.name: (f, getattr(value, f.name)) for f in fields(value)}
        return {
            name: _plain(v)
            for name, (f, v) in named.items()
            if (v != f.default or f.metadata.get("counted")) and not f.metadata.get("beside")
        }
    if isinstance(value, tuple | list):
        return [_plain(v) for v in value]
    if isinstance(value, frozenset | set):
        return sorted(json.dumps(_plain(v)) for v in value)
    if isinstance(value, datetime):
        try:
            return value.astimezone(UTC).isoformat()
        except OverflowError:  # the last hours of the year 9999: refused later, at its field
            return value.isoformat()
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, int | float) and not isinstance(value, bool):
        return float(value)
    if value is None or isinstance(value, str | bool):
        return value
    raise TypeError(f"An order holds plain values, not {type(value).__name__}")
