"""Meat scraped off frames."""

from datetime import datetime
from typing import NamedTuple

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find, plain_sql
from lepidos.store.schema.trials import ScrapingTable


class ScrapedRow(NamedTuple):
    """What was scraped off a zone of a side, and of which fish, cut by whom."""

    fish_id: str
    species: str
    length_m: float
    length_type: str
    cutter: str
    side: str
    zone: str
    kg: float


def scrape(ids: IdMaker, at: datetime, **values: object) -> records.Scraping:
    """Meat scraped off a frame."""
    return add_row(ScrapingTable, id=ids.new(at), at=at, **values)


def get(row_id: str) -> records.Scraping:
    """Raises Unknown."""
    found: records.Scraping = find(ScrapingTable, row_id, "scraping")
    return found


def latest(most: int) -> list[ScrapedRow]:
    """The latest that stand, of fish that stand; a zone of a side that was scraped twice as one."""
    query = """
        SELECT n.fish_id, n.species, n.length_m, n.length_type, coalesce(board.name, ''), s.side,
          s.zone, sum(s.kg)
        FROM scraping s JOIN fish_now n ON n.fish_id = s.fish_id AND n.stage <> 'withdrawn'
        LEFT JOIN board ON board.id = n.board_id
        WHERE NOT EXISTS (SELECT 1 FROM undo WHERE undo.target_id = s.id)
        GROUP BY n.fish_id, s.side, s.zone ORDER BY max(s.id) DESC LIMIT ?
    """
    return [ScrapedRow._make(row) for row in plain_sql(query, most)]


def fish_to_scrape(most: int) -> list[tuple[str, str, str]]:
    """The fish cut last: id, code, species."""
    query = """
        SELECT fish.id, fish.code, fish.species
        FROM fish_now JOIN fish ON fish.id = fish_now.fish_id
        WHERE fillet_kg > 0 AND stage IN ('table', 'done') ORDER BY fish.id DESC LIMIT ?
    """
    return [tuple(row) for row in plain_sql(query, most)]
