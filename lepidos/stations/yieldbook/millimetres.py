"""Millimetres left by zone: meat scraped off frames, as a layer over the bones."""

from dataclasses import dataclass
from datetime import datetime
from typing import cast

from lepidos.core.errors import OutOfRange, Refused
from lepidos.core.fish.lengths import to_length_type
from lepidos.core.fish.species import LengthType, Species
from lepidos.core.units import System, format_mass
from lepidos.core.yields.knife_gap import ZoneGap, zone_area, zone_gaps
from lepidos.guide.knife_zones import KnifeZone, knife_zones
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.store.base import entries
from lepidos.store.deck import fishes
from lepidos.store.yieldbook import scrapings
from lepidos.store.yieldbook.scrapings import ScrapedRow

LOOKED_AT = 2000
OFFERED = 40
MAX_KG = 5.0  # nobody leaves more on a frame and then scrapes it off


@dataclass(frozen=True)
class Scrape:
    """An order: so much meat came off a zone of a side of a fish with a spoon."""

    fish_id: str
    side: str
    zone: str
    kg: float | None
    system: System = "metric"


def scrape(ctx: AppContext, key: str, order: Scrape) -> Receipt:
    """Note it. Raises Refused with the fields, Unknown."""

    def do(at: datetime) -> Receipt:
        problems = {}
        zone = knife_zones().one(order.zone)
        if zone is None:
            problems["zone"] = "Choose where it was left"
        if order.side not in {"A", "B"}:
            problems["side"] = "Side A or B"
        if order.kg is None:
            problems["weight"] = "Weigh what came off; nothing at all is 0"
        elif not 0 <= order.kg <= MAX_KG:
            problems["weight"] = f"0 to {MAX_KG:g} kg"
        if not order.fish_id:
            problems["fish"] = "Choose which fish"
        if problems or zone is None or order.kg is None:
            raise Refused(problems)
        fish = fishes.get(order.fish_id)
        if not _has_zones(ctx, fish.species):
            raise Refused({"fish": "This kind of fish has no such bones"})
        row = scrapings.scrape(
            ctx.ids, at, fish=fish.id, side=order.side, zone=zone.key, kg=order.kg
        )
        mass = format_mass(order.kg, order.system)
        return Receipt("scraping", row.id, f"{fish.code} {order.side}: {mass} {zone.name}")

    return run_idempotent(ctx, key, "book.scrape", order, do)


@dataclass(frozen=True)
class OfCutter:
    """One cutter's zones, the thickest layer first."""

    name: str
    zones: tuple[ZoneGap, ...]

    @property
    def worst(self) -> ZoneGap:
        """Where most is left."""
        return self.zones[0]


@dataclass(frozen=True)
class Millimetres:
    """All cutters whose frames were scraped; fish that may be; a fish to draw it on."""

    cutters: tuple[OfCutter, ...]
    fish: tuple[tuple[str, str, str], ...]
    zones: tuple[KnifeZone, ...]
    drawn_on: Species | None

    def zone(self, key: str) -> KnifeZone:
        """By its key."""
        return next(zone for zone in self.zones if zone.key == key)


def view_millimetres(ctx: AppContext) -> Millimetres:
    """What was scraped, as millimetres."""
    with ctx.store.reading():
        key = ("millimetres", entries.last_key(), ctx.guide.edition)
        return ctx.memo.get(key, lambda: _view(ctx), most=2)


def _view(ctx: AppContext) -> Millimetres:
    zones = {zone.key: zone for zone in knife_zones().zones}
    by_cutter: dict[str, dict[str, list[tuple[float, float]]]] = {}
    rows = scrapings.latest(LOOKED_AT)
    for row in rows:
        try:
            square = _area(ctx, row, zones[row.zone])
        except (OutOfRange, KeyError):
            continue
        own = by_cutter.setdefault(row.cutter or "no board", {})
        own.setdefault(row.zone, []).append((row.kg, square))
    cutters = [OfCutter(name, tuple(zone_gaps(own))) for name, own in by_cutter.items()]
    kinds = [row.species for row in rows if row.species in ctx.guide.species]
    most = max(set(kinds), key=kinds.count) if kinds else ""
    offered = [
        (fish, code, str(ctx.guide.known_or_named(kind).name))
        for fish, code, kind in scrapings.fish_to_scrape(OFFERED)
        if _has_zones(ctx, kind)
    ]
    return Millimetres(
        tuple(sorted(cutters, key=lambda one: (-one.worst.mm, one.name))),
        tuple(offered),
        tuple(zones.values()),
        ctx.guide.species[most] if most else None,
    )


def _has_zones(ctx: AppContext, kind: str) -> bool:
    return ctx.guide.known_or_named(kind).body_plan not in knife_zones().without


def _area(ctx: AppContext, row: ScrapedRow, zone: KnifeZone) -> float:
    species = ctx.guide.one(row.species)
    have = cast(LengthType, row.length_type)
    total = to_length_type(row.length_m, have, "total", species.total_per)
    return zone_area(ctx.guide.body_of(species), zone.outline, total)


def undo_scraping(ctx: AppContext, row_id: str, at: datetime) -> str:
    row = scrapings.get(row_id)
    entries.undo(ctx.ids, "scraping", row_id, at)
    return f"{fishes.get(row.fish_id).code}: nothing scraped there after all"
