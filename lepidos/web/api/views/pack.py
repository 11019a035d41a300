"""Pieces, their marks and the bag plan, as the API shows them."""

from lepidos.core.pack.labels import show_code
from lepidos.stations.pack.pack import PackView
from lepidos.stations.pack.planned import PackTable, PlannedBag
from lepidos.stations.pack.portioning import PieceRow
from lepidos.web.api.shapes import DoneOut, Out


class PieceOut(Out):
    """A piece that waits."""

    id: str
    fish: str
    species: str
    piece: str
    side: str
    kg: float
    packed_share: float
    party: str


class PortionOut(Out):
    """A portion between two marks; its mass with an interval."""

    index: int
    from_cm: float
    to_cm: float
    kg: float
    low_kg: float
    high_kg: float
    tail: bool


class MarkedBagOut(Out):
    """Portions that share a bag; its code when it is sealed."""

    index: int
    portions: list[int]
    kg: float
    code: str | None


class MarkedPieceOut(PieceOut):
    """A piece with its marks [cm from the head end]."""

    serving_kg: float | None
    length_cm: float
    marks_cm: list[float]
    portions: list[PortionOut]
    bags: list[MarkedBagOut]
    partners: list[PieceOut]


class PlannedBagOut(Out):
    """A bag of the plan: sealed by naming its `parts`. A roll's length is what is cut off it."""

    parts: list[str]
    name: str
    party: str
    kg: float
    servings: float
    fish: list[str]
    by_hand: bool
    width_cm: float | None
    length_cm: float | None


class ToComeOut(Out):
    """Bags that fish still to be cut will give."""

    name: str
    bags: int
    fish: list[str]


class SupplyOut(Out):
    """A size of bag: how many are left, how many the plan takes, how many are short."""

    width_cm: float
    length_cm: float | None
    left: float | None
    takes: float
    short: float


class BagPlanOut(Out):
    """The bag plan. No plan needs fewer than `least_bags`; `fewest`: this one has no more."""

    least_bags: int
    fewest: bool
    bags: list[PlannedBagOut]
    to_come: list[ToComeOut]
    supplies: list[SupplyOut]


class SealedOut(DoneOut):
    """A bag that was sealed: its code, and what the printer said, "sent" when it took the label."""

    code: str
    printer: str


def piece(row: PieceRow) -> PieceOut:
    """A piece that waits."""
    return PieceOut(
        id=row.weighing.id,
        fish=row.fish.code,
        species=row.species.key,
        piece=row.weighing.piece,
        side=row.weighing.side,
        kg=row.weighing.kg,
        packed_share=row.packed_share,
        party=row.party,
    )


def plan(found: PackTable) -> BagPlanOut:
    """The bag plan: bags to come, and what the box of bags lacks."""
    return BagPlanOut(
        least_bags=found.least,
        fewest=found.fewest,
        bags=[_planned(found, bag) for bag in found.planned],
        to_come=[
            ToComeOut(name=row.example.name, bags=row.number, fish=list(row.codes))
            for column in found.columns
            for row in column.to_come
        ],
        supplies=[
            SupplyOut(
                width_cm=s.size.width_m * 100,
                length_cm=s.size.length_m * 100 if not s.size.roll else None,
                left=s.left,
                takes=s.takes,
                short=s.short,
            )
            for s in found.supplies
        ],
    )


def _planned(found: PackTable, bag: PlannedBag) -> PlannedBagOut:
    return PlannedBagOut(
        parts=[row.part.key for row in bag.rows],
        name=bag.name,
        party=found.name_of(bag),
        kg=bag.bag.kg,
        servings=bag.servings,
        fish=list(bag.codes),
        by_hand=bag.bag.by_hand,
        width_cm=bag.laid.size.width_m * 100 if bag.laid else None,
        length_cm=bag.laid.length_m * 100 if bag.laid else None,
    )


def marked(view: PackView) -> MarkedPieceOut:
    """A piece with its marks."""
    return MarkedPieceOut(
        **dict(piece(view.row)),
        serving_kg=view.marks.serving_kg,
        length_cm=view.plan.length_m * 100,
        marks_cm=[m * 100 for m in view.plan.marks_m],
        portions=[
            PortionOut(
                index=p.index,
                from_cm=p.from_m * 100,
                to_cm=p.to_m * 100,
                kg=p.kg,
                low_kg=p.low_kg,
                high_kg=p.high_kg,
                tail=p.tail,
            )
            for p in view.plan.portions
        ],
        bags=[
            MarkedBagOut(
                index=b.index,
                portions=[p.index for p in b.portions],
                kg=b.kg,
                code=show_code(view.sealed[b.index].code) if b.index in view.sealed else None,
            )
            for b in view.bags
        ],
        partners=[piece(p) for p in view.partners],
    )
