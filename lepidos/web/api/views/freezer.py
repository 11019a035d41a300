"""Bags, places and meals, as the API shows them."""

from datetime import date

from lepidos.stations.freezer.find import Hit
from lepidos.stations.freezer.freezer import BagRow, BagView, PlaceBox
from lepidos.stations.freezer.holds import RawHold
from lepidos.stations.freezer.meals import Suggestion
from lepidos.stations.freezer.place_view import PlaceView
from lepidos.web.api.shapes import Instant, Out


class BagOut(Out):
    """A bag. `best_by` is by the log, `lost_days` sooner than the label's for warm spells.

    Sizes are the empty bag's, and how thick the fish lies in it; 0 where nobody said.
    """

    id: str
    code: str
    species: str
    piece: str
    tail: bool
    skin: str
    servings: float
    kg: float
    measured: bool
    caught_on: date
    packed_on: date
    best_by: date
    purpose: str
    width_m: float
    length_m: float
    from_roll: bool
    thick_m: float
    pack: str
    party: str
    state: str
    lost_days: int
    raw_from: Instant | None
    place: str


class BagsOut(Out):
    """Bags, first-expiring first."""

    total: int
    bags: list[BagOut]


class RawHoldOut(Out):
    """What a log shows of a raw hold: `state` never raw, exempt, or the verdict's."""

    rule: str
    state: str
    route: str
    proved_at: Instant | None
    due_at: Instant | None


class ContentOut(Out):
    """A stretch of a piece that lies in a bag."""

    fish: str
    piece: str
    side: str
    from_cm: float
    to_cm: float
    kg: float


class MoveOut(Out):
    """A bag put in or taken out; one that was undone does not stand."""

    id: str
    action: str
    place: str
    why: str
    note: str
    at: Instant
    stands: bool


class BagViewOut(BagOut):
    """A bag with contents and history."""

    raw_hold: RawHoldOut
    contents: list[ContentOut]
    moves: list[MoveOut]


class PlaceRowOut(Out):
    """A place in a list; what nobody said is null."""

    id: str
    name: str
    bags: int
    celsius: float | None
    litres: float | None
    cooling: str | None
    kind: str | None
    within_id: str | None
    measured_c: float | None
    measured_at: Instant | None


class LogOut(Out):
    """Readings of one sensor that came together."""

    id: str
    name: str
    readings: int
    first_at: Instant
    last_at: Instant


class PlaceOut(Out):
    """One place. `hours_without_power_to_c`: hours until its bags reach that many °C."""

    id: str
    name: str
    bags: int
    kg: float
    celsius: float
    measured_c: float | None
    measured_at: Instant | None
    day_low_c: float | None
    day_high_c: float | None
    warmest_middle_c: float | None
    gaps: int
    due_sooner: list[str]
    hours_without_power_to_c: dict[str, float | None]
    logs: list[LogOut]


class HitOut(Out):
    """A bag that words found."""

    code: str
    what: str
    where: str
    party: str
    trip: str
    best_by: date


class HitsOut(Out):
    """Bags that words found, at most 200 of `total`."""

    total: int
    bags: list[HitOut]


class SuggestionOut(Out):
    """A meal that can be had. Servings left over or short."""

    what: str
    codes: list[str]
    left_over: float
    short: float
    thaw_hours: float
    out_at: Instant
    too_late: bool


def _bag_fields(row: BagRow) -> dict[str, object]:
    """What a bag's row holds, but for the keys of other rows, and where it is now."""
    return {
        **{k: v for k, v in row.bag._asdict().items() if k in BagOut.model_fields},
        "code": row.code,
        "party": row.party,
        "state": row.now.state,
        "best_by": row.now.best_by,
        "lost_days": row.now.lost_days,
        "raw_from": row.now.raw_from,
        "place": row.place,
    }


def bag(row: BagRow) -> BagOut:
    """A bag in a list."""
    return BagOut.model_validate(_bag_fields(row))


def bag_view(view: BagView) -> BagViewOut:
    """A bag with contents and history."""
    return BagViewOut.model_validate(
        {
            **_bag_fields(view.row),
            "raw_hold": hold(view.hold),
            "contents": [
                ContentOut(
                    fish=f.code,
                    piece=w.piece,
                    side=w.side,
                    from_cm=p.from_m * 100,
                    to_cm=p.to_m * 100,
                    kg=p.kg,
                )
                for p, w, f in view.contents
            ],
            "moves": [
                MoveOut(
                    id=m.id,
                    action=m.action,
                    place=place,
                    why=m.why,
                    note=m.note,
                    at=m.at,
                    stands=stands,
                )
                for m, stands, place in view.moves
            ],
        }
    )


def hold(view: RawHold) -> RawHoldOut:
    """What a log shows of a raw hold."""
    state = "never raw" if view.never else "exempt" if view.exempt else ""
    return RawHoldOut(
        rule=view.rule.name,
        state=state or (view.verdict.state if view.verdict else ""),
        route=view.verdict.route.key if view.verdict else "",
        proved_at=view.proved_at,
        due_at=view.due_at,
    )


def place_row(box: PlaceBox) -> PlaceRowOut:
    """A place in a list."""
    said, line = box.said, box.line
    return PlaceRowOut(
        id=box.place.id,
        name=box.place.name,
        bags=box.number,
        celsius=said.celsius if said else None,
        litres=said.litres or None if said else None,
        cooling=said.cooling if said else None,
        kind=said.kind if said else None,
        within_id=said.within_id if said else None,
        measured_c=line.now_c if line else None,
        measured_at=line.until if line else None,
    )


def place_view(view: PlaceView) -> PlaceOut:
    """One place."""
    line, hours = view.line, view.outage.hours_to if view.outage else {}
    return PlaceOut(
        id=view.place.id,
        name=view.place.name,
        bags=len(view.rows),
        kg=view.kg,
        celsius=view.celsius,
        measured_c=line.now_c if line else None,
        measured_at=line.until if line else None,
        day_low_c=line.low_c if line else None,
        day_high_c=line.high_c if line else None,
        warmest_middle_c=view.spell.celsius if view.spell else None,
        gaps=view.gaps,
        due_sooner=[b.code for b, _ in view.sooner],
        hours_without_power_to_c={f"{celsius:g}": taken for celsius, taken in hours.items()},
        logs=[LogOut.model_validate(row) for row in view.logs],
    )


def hit(found: Hit) -> HitOut:
    """A bag that words found."""
    return HitOut(
        code=found.code,
        what=found.name,
        where=found.where,
        party=found.party,
        trip=found.trip,
        best_by=found.now.best_by,
    )


def suggestion(one: Suggestion) -> SuggestionOut:
    """A meal that can be had."""
    return SuggestionOut(
        what=one.name,
        codes=[bag.code for bag, _, _ in one.rows],
        left_over=one.meal.over,
        short=one.meal.short,
        thaw_hours=one.hours,
        out_at=one.out_at,
        too_late=one.too_late,
    )
