"""Palms, hands, fists and panfuls: the measures that everybody has."""

from functools import cache
from pathlib import Path

from lepidos.core.yields.hand_measures import HandMeasure
from lepidos.guide.reading import read


@cache
def hand_measures() -> dict[str, HandMeasure]:
    """By key, as the guide has them. Raises ValueError for a file that does not hold."""
    rows = read(Path(__file__).with_name("hand_measures.toml"))
    return {key: HandMeasure(**row) for key, row in rows.items()}
