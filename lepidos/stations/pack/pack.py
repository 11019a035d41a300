"""Pack: marks on a fillet, portions into bags, a label on every bag."""

from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from lepidos.core.cutting.plan import plan_cut
from lepidos.core.errors import Conflict, Refused, require
from lepidos.core.fish.anatomy import (
    FilletProfile,
    Polygon,
    fillet_profile,
    zone_extent,
    zone_polygon,
)
from lepidos.core.fish.bodyplan import Piece
from lepidos.core.fish.species import Species
from lepidos.core.freezer.storage_life import best_by
from lepidos.core.limits import LEAST_PIECE_KG
from lepidos.core.pack import labels
from lepidos.core.pack.findings import shortened
from lepidos.core.pack.portions import (
    PACKED,
    BagPlan,
    Portion,
    PortionPlan,
    equal_portions,
    into_bags,
    least_serving,
)
from lepidos.core.units import System, format_mass
from lepidos.devices.printer import PrintJob
from lepidos.devices.scale import DeviceError
from lepidos.exchange.labelpdf import labels_pdf
from lepidos.stations.base.context import Done, House, once
from lepidos.stations.base.fish import landed, require_workable, to_cut, total_length_m
from lepidos.stations.table.findings import follows, seen_on
from lepidos.stations.trips.trips import TripView, view_in_transaction
from lepidos.store import bags, fishes, trips
from lepidos.store.models import Bag, Fish, FishNow, Trip, Weighing
from lepidos.store.models import Portion as PackedPortion

SERVING_KG = 0.200  # a main course for one (common practice, no source)
PER_BAG = 2
STRETCH = 1.1  # a fillet laid flat is a little longer than it was on the fish (practice)
ODD_BAG = 1.4  # a bag this many times off its portions' weight is asked about (practice)


@dataclass(frozen=True)
class Marks:
    """How a piece is to be portioned.

    `serving_kg` None means a usual serving; `length_m` 0: as long as the body plan says.
    """

    serving_kg: float | None = None
    per_bag: int = PER_BAG
    tail_apart: bool = True
    length_m: float = 0.0


@dataclass(frozen=True)
class PieceRow:
    """A piece that waits to be packed, or a partner for the same bag."""

    weighing: Weighing
    fish: Fish
    piece: Piece
    species: Species
    party: str
    packed_share: float
    name: str


@dataclass(frozen=True)
class PackList:
    """The pack page: pieces that wait, and bags that are sealed."""

    view: TripView
    waiting: tuple[PieceRow, ...]
    sealed: tuple[tuple[Bag, str, Species, Piece], ...]


@dataclass(frozen=True)
class PackView:
    """One piece with its marks, its bags, and what may share the next bag."""

    view: TripView
    row: PieceRow
    marks: Marks
    locked: bool
    plan: PortionPlan
    profile: FilletProfile | None
    outline: Polygon
    bags: tuple[BagPlan, ...]
    sealed: dict[int, Bag]
    next_bag: BagPlan | None
    partners: tuple[PieceRow, ...]


def list_pieces(house: House, trip_id: str) -> PackList:
    """What waits for a bag on a trip. Raises Unknown."""
    with house.store.reading():
        view = view_in_transaction(house, trip_id)
        waiting = tuple(_waiting(house, view))
        rows = bags.of_trip(trip_id, ("sealed",))
        parties = {p.id: p.name for p in view.parties}
        sealed = tuple(
            (
                bag,
                parties.get(bag.party_id or "", ""),
                house.guide.known_or_named(bag.species),
                house.guide.piece(bag.piece),
            )
            for bag, _ in reversed(rows)
        )
    return PackList(view, waiting, sealed)


def view_piece(house: House, weighing_id: str, marks: Marks) -> PackView:
    """One piece with marks. Raises Unknown; Refused with the field that cannot be."""
    with house.store.reading():
        weighing = fishes.weighing(weighing_id)
        fish = fishes.get(weighing.fish_id)
        require_workable(house, fish, fishes.now(fish.id))
        view = view_in_transaction(house, fish.trip_id)
        packed = bags.portions_of_piece(weighing.id)
        row = _row(house, view, weighing, fish, sum(p.share for p, _ in packed))
        used, plan, profile = _portions(house, row, _locked(packed) or marks)
        outline = _outline(house, row)
        planned = into_bags(plan.portions, used.per_bag)
        sealed = _sealed(planned, packed)
        next_bag = next((b for b in planned if b.index not in sealed), None)
        partners: tuple[PieceRow, ...] = ()
        if len(plan.portions) == 1 and next_bag:
            partners = tuple(_partners(house, view, row))
    return PackView(
        view,
        row,
        used,
        bool(packed),
        plan,
        profile,
        outline,
        planned,
        sealed,
        next_bag,
        partners,
    )


@dataclass(frozen=True)
class SealBag:
    """An order to seal the bag `index` of a piece's plan.

    `also` are other pieces that go whole into the same bag; `kg` is the bag's weight when it was
    taken. The marks are the ones the person saw.
    """

    weighing_id: str
    index: int
    marks: Marks
    also: tuple[str, ...] = ()
    kg: float | None = None
    system: System = "metric"


def seal_bag(house: House, key: str, order: SealBag) -> Done:
    """Seal one bag and make its row. Print afterwards with `print_label`.

    Raises: Refused with the field; Conflict when the piece was packed otherwise meanwhile.
    """

    def do(at: datetime) -> Done:
        weighing = fishes.weighing(order.weighing_id)
        fish = fishes.get(weighing.fish_id)
        require_workable(house, fish, fishes.now(fish.id))
        view = view_in_transaction(house, fish.trip_id)
        packed = bags.portions_of_piece(weighing.id)
        row = _row(house, view, weighing, fish, sum(p.share for p, _ in packed))
        marks = _locked(packed)
        used, plan, _ = _portions(house, row, marks or order.marks)
        if marks and _resolved(order.marks, used) != used:
            raise Conflict("This piece has bags with other marks already; look at it again")
        planned = into_bags(plan.portions, used.per_bag)
        bag_plan = next((b for b in planned if b.index == order.index), None)
        if bag_plan is None:
            raise Refused({"index": "There is no such bag in this plan"})
        if earlier := _sealed(planned, packed).get(order.index):
            raise Conflict(f"That is in bag {labels.show_code(earlier.code)} already")
        others = _chosen(house, view, row, plan, order.also)
        expected_kg = bag_plan.kg + sum(o.weighing.kg for o in others)
        bag_kg, question = _bag_weight(order, expected_kg)
        bag = _write_bag(house, at, view.trip, row, bag_plan, used, others, bag_kg, order, plan)
        return Done("bag", bag.id, f"Bag {labels.show_code(bag.code)} sealed", question)

    return once(house, key, "pack.seal", order, do)


def label_of(house: House, bag_id: str, system: System = "metric") -> labels.LabelContent:
    """The label of a bag. Raises Unknown."""
    with house.store.reading():
        return compose_label(house, bags.get(bag_id), system)


def compose_label(house: House, bag: Bag, system: System) -> labels.LabelContent:
    """The label of a bag, from an open file."""
    species, piece = house.guide.known_or_named(bag.species), house.guide.piece(bag.piece)
    owner = bags.party_names({bag.party_id}).get(bag.party_id, "") if bag.party_id else ""
    keys = [*(c for c in species.cautions), "thaw"]
    # what was seen on the fish in it comes first: it says most of this bag
    fish = dict.fromkeys(f.id for _, _, f in bags.portions_of_bag(bag.id))
    sights = [s for fish_id in fish for s in seen_on(house, fish_id)]
    cautions = [*follows(sights).labels, *(house.guide.cautions[key].label for key in keys)]
    return labels.label_content(
        species=species.name,
        cut=f"{piece.name}, tail" if bag.tail else piece.name,
        skin=bag.skin,
        servings=bag.servings,
        weight=("" if bag.measured else "about ") + format_mass(bag.kg, system),
        caught=bag.caught_on,
        packed=bag.packed_on,
        best=bag.best_by,
        owner=owner,
        code=bag.code,
        cautions=[c for c in cautions if c],
        link_base=house.link_base,
    )


def label_pdf(house: House, bag_id: str, system: System = "metric") -> bytes:
    """The label as a PDF. Raises Unknown."""
    with house.store.reading():
        bag = bags.get(bag_id)
        content = compose_label(house, bag, system)
    return labels_pdf([content], bag.sealed_at)


def print_label(house: House, bag_id: str, system: System = "metric") -> None:
    """Print a bag's label now. Raises PrinterOffline, Unknown."""
    pdf = label_pdf(house, bag_id, system)
    with house.store.reading():
        code = labels.show_code(bags.get(bag_id).code)
    house.printer.print(PrintJob(f"label {code}", pdf, house.clock()))
    house.labels.printed(bag_id)


def send_label(house: House, bag_id: str, system: System = "metric") -> str:
    """Send a sealed bag's label on its way; "" or the sentence that says why it cannot go.

    The bag stays sealed either way. What fails on the way is in `house.labels.unprinted`.
    """
    try:
        house.printer.check()
        with house.store.reading():
            code = labels.show_code(bags.get(bag_id).code)
        house.labels.put(bag_id, code, lambda: print_label(house, bag_id, system))
    except DeviceError as error:
        return str(error)
    return ""


def _best_by(house: House, packed_on: date, rows: list[PieceRow]) -> date:
    """The species' months, cut short by what was seen on any of the fish in the bag."""
    best = best_by(packed_on, rows[0].species.keeping)
    factor = min(follows(seen_on(house, row.fish.id)).keeping for row in rows)
    return shortened(packed_on, best, factor)


def _row(
    house: House, view: TripView, weighing: Weighing, fish: Fish, packed_share: float
) -> PieceRow:
    party = next((p.name for p in view.parties if p.id == fish.party_id), "")
    piece, species = house.guide.piece(weighing.piece), house.guide.one(fish.species)
    name = house.guide.plan_of(species).call(piece.name, weighing.side)
    return PieceRow(weighing, fish, piece, species, party, packed_share, name)


def _waiting(house: House, view: TripView) -> list[PieceRow]:
    shares = bags.packed_shares(view.trip.id)
    by_id = {fish.id: fish for fish, _ in landed(house, view.trip.id)}
    rows = [
        _row(house, view, w, by_id[w.fish_id], shares.get(w.id, 0.0))
        for w in fishes.weighings_of_trip(view.trip.id)
        if w.fish_id in by_id and shares.get(w.id, 0.0) < PACKED
    ]
    return [row for row in rows if row.piece.counts_as != "rest"]


def _partners(house: House, view: TripView, row: PieceRow) -> list[PieceRow]:
    """Whole pieces of the same kind, species, skin and party."""

    def kin(r: PieceRow) -> tuple[str, str, str, str | None]:
        return r.weighing.piece, r.fish.species, r.fish.skin, r.fish.party_id

    return [
        other
        for other in _waiting(house, view)
        if other.weighing.id != row.weighing.id
        and other.packed_share == 0
        and kin(other) == kin(row)
    ]


def _portions(
    house: House, row: PieceRow, marks: Marks
) -> tuple[Marks, PortionPlan, FilletProfile | None]:
    """The marks with their length filled in, and the portions they give."""
    body, plan = house.guide.body_of(row.species), house.guide.plan_of(row.species)
    now = fishes.now(row.fish.id)
    zone = _zone(house, row, now)
    serving_kg = marks.serving_kg
    if serving_kg is None:
        # the side of a tuna gives more usual servings than anyone marks on it
        serving_kg = round(max(SERVING_KG, least_serving(row.weighing.kg)), 3)
    require("serving", serving_kg, 0.02, 200, "kg")
    if not row.piece.tail_apart or not zone:
        used = Marks(serving_kg, 1, False, 0.0)
        whole = Portion(0, 0.0, 0.0, row.weighing.kg, row.weighing.kg, row.weighing.kg, False)
        return used, PortionPlan(0.0, row.weighing.kg, serving_kg, (whole,), 0.0, 0.0), None
    profile = fillet_profile(body, plan, zone)
    length_m = marks.length_m
    if not length_m:
        start, end = zone_extent(body, plan, zone)
        length_m = max(0.001, round((end - start) * total_length_m(now, row.species), 3))
    # a piece is no longer than its fish
    require("length", length_m, 0.001, total_length_m(now, row.species) * STRETCH, "m")
    used = Marks(serving_kg, marks.per_bag, marks.tail_apart, length_m)
    portions = equal_portions(profile, row.weighing.kg, length_m, serving_kg, marks.tail_apart)
    return used, portions, profile


def _zone(house: House, row: PieceRow, now: FishNow) -> str:
    """Where on this fish the piece was cut; a piece that the plan does not have has no zone."""
    cut = plan_cut(
        to_cut(house, row.fish, now, row.species),
        row.species,
        house.guide.plan_of(row.species),
        house.guide.pieces,
        house.guide.schools,
    )
    return cut.zone_of(row.weighing.piece)


def _outline(house: House, row: PieceRow) -> Polygon:
    zone = _zone(house, row, fishes.now(row.fish.id))
    if not zone:
        return ()
    return zone_polygon(house.guide.body_of(row.species), house.guide.plan_of(row.species), zone)


def _locked(packed: list[tuple[PackedPortion, Bag]]) -> Marks | None:
    """The marks that bags of this piece were sealed with already."""
    if not packed:
        return None
    first = packed[0][0]
    return Marks(first.serving_kg, first.per_bag, first.tail_apart, first.length_m)


def _resolved(asked: Marks, used: Marks) -> Marks:
    length_m = asked.length_m or used.length_m
    serving_kg = used.serving_kg if asked.serving_kg is None else asked.serving_kg
    if used.length_m == 0:  # a piece without marks: only the serving counts
        return Marks(serving_kg, used.per_bag, used.tail_apart, 0.0)
    return Marks(serving_kg, asked.per_bag, asked.tail_apart, length_m)


def _sealed(
    planned: tuple[BagPlan, ...], packed: list[tuple[PackedPortion, Bag]]
) -> dict[int, Bag]:
    by_position = {portion.position: bag for portion, bag in packed}
    return {
        b.index: by_position[b.portions[0].index]
        for b in planned
        if b.portions[0].index in by_position
    }


def _chosen(
    house: House, view: TripView, row: PieceRow, plan: PortionPlan, also: tuple[str, ...]
) -> list[PieceRow]:
    if not also:
        return []
    if len(plan.portions) > 1:
        raise Refused({"also": "Only a piece that is packed whole can share its bag"})
    free = {p.weighing.id: p for p in _partners(house, view, row)}
    if missing := [i for i in also if i not in free]:
        raise Conflict(f"{labels.count(len(missing), 'piece')} of these went into another bag")
    return [free[i] for i in dict.fromkeys(also)]


def _bag_weight(order: SealBag, expected_kg: float) -> tuple[float, str]:
    if order.kg is None:
        return expected_kg, ""
    if not LEAST_PIECE_KG <= order.kg <= 60:
        raise Refused({"weight": "A bag weighs more than nothing and at most 60 kg"})
    if expected_kg / ODD_BAG <= order.kg <= expected_kg * ODD_BAG:
        return order.kg, ""
    given, planned = (format_mass(kg, order.system) for kg in (order.kg, expected_kg))
    return order.kg, f"{given} in a bag planned at {planned}? Is the right piece in it?"


def _write_bag(
    house: House,
    at: datetime,
    trip: Trip,
    row: PieceRow,
    bag_plan: BagPlan,
    used: Marks,
    others: list[PieceRow],
    bag_kg: float,
    order: SealBag,
    plan: PortionPlan,
) -> Bag:
    code = labels.make_code(house.rng)
    while bags.code_taken(code):
        code = labels.make_code(house.rng)
    zone = ZoneInfo(trips.get(trip.id).timezone)
    packed_on = at.astimezone(zone).date()
    whole = len(plan.portions) == 1
    servings = max(1, round(bag_kg / plan.serving_kg)) if whole else len(bag_plan.portions)
    bag = bags.add(
        house.ids,
        at,
        code=code,
        trip=trip.id,
        party=row.fish.party_id,
        species=row.fish.species,
        piece=row.weighing.piece,
        tail=bag_plan.tail and not whole,
        skin=row.fish.skin,
        servings=servings,
        kg=bag_kg,
        measured=order.kg is not None,
        caught_on=row.fish.landed_at.astimezone(zone).date(),
        packed_on=packed_on,
        best_by=_best_by(house, packed_on, [row, *others]),
    )
    # a weighed bag's grams are shared out over what is in it
    scale = bag_kg / (bag_plan.kg + sum(o.weighing.kg for o in others))
    common = {
        "serving_kg": used.serving_kg,
        "length_m": used.length_m,
        "tail_apart": used.tail_apart,
        "per_bag": used.per_bag,
        "bag": bag.id,
    }
    for portion in bag_plan.portions:
        bags.add_portion(
            house.ids,
            at,
            weighing=row.weighing.id,
            position=portion.index,
            from_m=portion.from_m,
            to_m=portion.to_m,
            share=portion.kg / row.weighing.kg,
            kg=portion.kg * scale,
            **common,
        )
    for other in others:
        bags.add_portion(
            house.ids,
            at,
            weighing=other.weighing.id,
            position=0,
            from_m=0.0,
            to_m=0.0,
            share=1.0,
            kg=other.weighing.kg * scale,
            **common,
        )
    bags.refresh(bag.id)
    return bag
