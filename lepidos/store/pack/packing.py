"""How fish go into bags, what hands decided, the box of bags, and who gets what."""

from datetime import datetime
from typing import NamedTuple

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find, plain_sql, read
from lepidos.store.base.standing import all_standing, in_order, those_standing
from lepidos.store.schema.cutting import WeighingTable
from lepidos.store.schema.fish import FishTable
from lepidos.store.schema.packing import (
    BagRuleTable,
    LabelCountTable,
    LabelPrintTable,
    PartSaidTable,
    PartyWishTable,
    PieceMarkTable,
    ShareRuleTable,
    SupplyCountTable,
)


def _standing(query, model):
    """The rows that were not undone, in the order in which they were written."""
    return read(in_order(those_standing(query, model)))


def _of_trip(model) -> Ready:
    """A trip's rows, as `_standing`; every page of the table in bags asks for them."""
    return Ready(
        lambda trip: in_order(those_standing(model.select().where(model.trip == trip), model))
    )


def _of_trips_pieces(model) -> Ready:
    """The rows of a trip's pieces, as `_standing`."""

    def query(trip):
        pieces = model.select(model).join(WeighingTable).join(FishTable)
        return in_order(those_standing(pieces.where(FishTable.trip == trip), model))

    return Ready(query)


_RULES: Ready[records.BagRule] = _of_trip(BagRuleTable)
_SHARING: Ready[records.ShareRule] = _of_trip(ShareRuleTable)
_WISHES: Ready[records.PartyWish] = _of_trip(PartyWishTable)
_MARKS: Ready[records.PieceMark] = _of_trips_pieces(PieceMarkTable)
_SAID: Ready[records.PartSaid] = _of_trips_pieces(PartSaidTable)
_SUPPLIES: Ready[records.SupplyCount] = all_standing(SupplyCountTable)
_LABELS: Ready[records.LabelCount] = all_standing(LabelCountTable)


def set_rule(ids: IdMaker, at: datetime, **values: object) -> records.BagRule:
    """How a party's fish go into bags from now on."""
    return add_row(BagRuleTable, id=ids.new(at), at=at, **values)


def rules_of(trip_id: str) -> dict[str, records.BagRule]:
    """By party, "" for everybody: the rule that holds."""
    return {row.party_id or "": row for row in _RULES(trip_id)}


def mark(ids: IdMaker, at: datetime, **values: object) -> records.PieceMark:
    """Where a piece is to be cut from now on."""
    return add_row(PieceMarkTable, id=ids.new(at), at=at, **values)


def marks_of(trip_id: str) -> dict[str, records.PieceMark]:
    """By weighing: the marks that hold for it alone."""
    return {row.weighing_id: row for row in _MARKS(trip_id)}


def marks_of_piece(weighing_id: str) -> records.PieceMark | None:
    """The marks that hold for one piece alone."""
    query = PieceMarkTable.select().where(PieceMarkTable.weighing == weighing_id)
    rows = _standing(query, PieceMarkTable)
    return rows[-1] if rows else None


def say(ids: IdMaker, at: datetime, **values: object) -> records.PartSaid:
    """What a hand decided for a portion."""
    return add_row(PartSaidTable, id=ids.new(at), at=at, **values)


def said_of(trip_id: str) -> dict[tuple[str, int], records.PartSaid]:
    """By weighing and position: what a hand decided and holds."""
    return {(row.weighing_id, row.position): row for row in _SAID(trip_id)}


_MODELS = {
    "bag rule": BagRuleTable,
    "piece mark": PieceMarkTable,
    "sharing": ShareRuleTable,
    "party wish": PartyWishTable,
    "supply": SupplyCountTable,
    "label count": LabelCountTable,
}


def require(kind: str, row_id: str) -> None:
    """Raises Unknown for a row of this kind that is not there."""
    find(_MODELS[kind], row_id, kind)


def said_together(first_id: str) -> list[records.PartSaid]:
    """All that a hand decided in one act, by the id of its first row. Raises Unknown."""
    first = find(PartSaidTable, first_id, "decision")
    same = (PartSaidTable.at == first.at) & (PartSaidTable.pin == first.pin)
    same &= PartSaidTable.id >= first.id
    return _standing(PartSaidTable.select().where(same), PartSaidTable)


def count_supply(
    ids: IdMaker, at: datetime, width_m: float, length_m: float, held: float
) -> records.SupplyCount:
    """What the box holds of a size now."""
    return add_row(
        SupplyCountTable, id=ids.new(at), width_m=width_m, length_m=length_m, held=held, at=at
    )


def supplies() -> list[tuple[records.SupplyCount, float]]:
    """The last count of each size, and what sealed bags have used since: bags, or metres."""
    last = {(row.width_m, row.length_m): row for row in _SUPPLIES()}
    # a bag that was undone is used up all the same
    query = """
        SELECT count(*), coalesce(sum(length_m), 0) FROM bag
        WHERE id > ? AND abs(width_m - ?) < 0.0005
          AND CASE WHEN ? THEN from_roll ELSE NOT from_roll AND abs(length_m - ?) < 0.0005 END
    """
    found = []
    for row in sorted(last.values(), key=lambda r: (r.width_m, r.length_m)):
        roll = row.length_m == 0
        ((number, metres),) = plain_sql(query, row.id, row.width_m, roll, row.length_m)
        found.append((row, float(metres if roll else number)))
    return found


def set_sharing(
    ids: IdMaker, at: datetime, trip_id: str, how: str, shares: str
) -> records.ShareRule:
    """How a trip's bags are shared out from now on."""
    return add_row(ShareRuleTable, id=ids.new(at), trip=trip_id, how=how, shares=shares, at=at)


def sharing_of(trip_id: str) -> records.ShareRule | None:
    """How a trip's bags are shared out; None as long as nobody said."""
    rows = _SHARING(trip_id)
    return rows[-1] if rows else None


def set_wish(ids: IdMaker, at: datetime, **values: object) -> records.PartyWish:
    """What a party wishes of its bags from now on."""
    return add_row(PartyWishTable, id=ids.new(at), at=at, **values)


def guests_of(trip_id: str) -> dict[str, list[records.PartyWish]]:
    """By party: what its guests wish, one row each, in the order in which they were named."""
    last = {(row.party_id, row.guest): row for row in _WISHES(trip_id) if row.guest}
    found: dict[str, list[records.PartyWish]] = {}
    for row in last.values():
        if row.note or row.without:
            found.setdefault(row.party_id, []).append(row)
    return found


def wishes_of(trip_id: str) -> dict[str, records.PartyWish]:
    """By party: what all of it wishes of its bags."""
    return {row.party_id: row for row in _WISHES(trip_id) if not row.guest}


def party_of_wish(row_id: str) -> str:
    """Whose a wish is. Raises Unknown."""
    row: records.PartyWish = find(PartyWishTable, row_id, "party wish")
    return row.party_id


def note_print(ids: IdMaker, at: datetime, bag_id: str) -> records.LabelPrint:
    """A label came out."""
    return add_row(LabelPrintTable, id=ids.new(at), bag=bag_id, at=at)


def count_labels(ids: IdMaker, at: datetime, held: int) -> records.LabelCount:
    """How many labels are on the roll now."""
    return add_row(LabelCountTable, id=ids.new(at), held=held, at=at)


class Labels(NamedTuple):
    """Labels since the roll was counted (None: it never was): left, printed, again, and void.

    `again` were printed for a bag that had one; `void` are of bags that were undone.
    """

    left: int | None
    printed: int
    again: int
    void: int


def labels_now() -> Labels:
    """How the roll stands; without a count, of all labels that ever came out."""
    rows = _LABELS()
    since, held = (rows[-1].id, rows[-1].held) if rows else ("", None)
    query = """
        SELECT count(*), count(DISTINCT label_print.bag_id),
               coalesce(sum(bag_now.state = 'withdrawn'), 0)
        FROM label_print JOIN bag_now ON bag_now.bag_id = label_print.bag_id
        WHERE label_print.id > ?
    """
    ((printed, of_bags, void),) = plain_sql(query, since)
    left = None if held is None else max(0, held - printed)
    return Labels(left, printed, printed - of_bags, void)
