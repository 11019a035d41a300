"""A fish at the bench, and where its parts go, as the API shows them."""

from lepidos.core.yields.balance import YieldFigure
from lepidos.stations.table.byproducts import WasteList
from lepidos.stations.table.fish_view import TableView
from lepidos.web.api.shapes import EstimateOut, Out, estimate_out
from lepidos.web.api.views.deck import ColdNowOut, WeightOut, cold_now, weight


class FigureOut(Out):
    """A yield with both its names."""

    fraction: float
    numerator: str
    denominator: str
    measured: bool


class StepOut(Out):
    """A step of the plan. `caution` is the first of its `cautions`, "" without one."""

    key: str
    title: str
    why: str
    tool: str
    side: str
    caution: str
    cautions: list[str]
    state: str


class WeighingOut(Out):
    """A piece on the scale. Pieces weighed together share `joint` and have an interval.

    One that is `rough` was weighed before all was off that comes off: nothing is learned from it.
    """

    id: str
    piece: str
    side: str
    kg: float
    method: str
    joint: str | None
    low_kg: float | None
    high_kg: float | None
    rough: bool


class BalanceOut(Out):
    """Round weight = what was weighed + the rest, exactly; `rest_is` says what the rest is."""

    round_kg: float
    weighed_kg: float
    rest_kg: float
    rest_is: str


class QuestionOut(Out):
    """A weighing that looks odd, and what would put it right."""

    key: str
    text: str
    weighing: str | None
    corrected_kg: float | None
    slot: str | None


class SeenOut(Out):
    """Something that was seen; `x` and `y` on the drawing, in parts of total length."""

    id: str
    what: str
    number: int
    place: str
    piece: str | None
    side: str | None
    x: float | None
    y: float | None
    cut_out_kg: float | None
    cut_out_how: str | None


class TableOut(Out):
    """A fish at the bench: plan, expected pieces, weighings, balance."""

    id: str
    code: str
    species: str
    stage: str
    skin: str
    skins: dict[str, str]
    purpose: str
    ways: dict[str, str]
    pieces: dict[str, str]
    keeps: list[str]
    said_by: dict[str, str]
    round_weight: WeightOut
    steps: list[StepOut]
    next: str | None
    expected: dict[str, EstimateOut]
    expected_fillet: EstimateOut
    weighings: list[WeighingOut]
    balance: BalanceOut
    fillet_yield: FigureOut | None
    questions: list[QuestionOut]
    seen: list[SeenOut]
    fates: dict[str, str | None]
    used: float
    board: str | None
    minutes: float | None
    paused: bool
    cold: ColdNowOut | None


class WastePieceOut(Out):
    """So many of a piece, with what they weigh."""

    piece: str
    number: int
    kg: float


class WasteLineOut(Out):
    """One use of the day; null: nobody said where it goes."""

    fate: str | None
    kg: float
    pieces: list[WastePieceOut]


class WasteOut(Out):
    """What goes where at the end of the day, and the share of the fish that is used."""

    fish: int
    used: float | None
    lines: list[WasteLineOut]


def figure(value: YieldFigure | None) -> FigureOut | None:
    """A yield with both its names."""
    return FigureOut.model_validate(value) if value else None


def table(view: TableView) -> TableOut:
    """A fish at the bench."""
    return TableOut(
        id=view.fish.id,
        code=view.fish.code,
        species=view.species.key,
        stage=view.now.stage,
        skin=view.plan.skin,
        skins=dict(view.plan.skins),
        purpose=view.plan.purpose,
        ways={key: way.option for key, way in view.plan.taken.items()},
        pieces=dict(view.how.choice.pieces),
        keeps=list(view.how.choice.keeps),
        said_by=dict(view.how.choice.said_by),
        round_weight=weight(view.weight),
        steps=_steps(view),
        next=view.next.key if view.next else None,
        expected={key: estimate_out(e) for key, e in view.expected.items()},
        expected_fillet=estimate_out(view.expected_fillet),
        weighings=_weighings(view),
        balance=BalanceOut(
            round_kg=view.balance.round_kg,
            weighed_kg=view.balance.weighed_kg,
            rest_kg=view.balance.rest_kg,
            rest_is="unaccounted for" if view.closed else "still on the fish",
        ),
        fillet_yield=figure(view.fillet_yield),
        questions=[
            QuestionOut(
                key=q.key,
                text=q.text,
                weighing=q.weighing or None,
                corrected_kg=q.corrected_kg,
                slot=q.slot or None,
            )
            for q in view.questions
        ],
        seen=_seen(view),
        fates={d.piece.key: d.fate.key if d.fate else None for d in view.destined},
        used=view.use.fraction,
        board=view.board.board.name if view.board else None,
        minutes=view.time.worked_s / 60 if view.time else None,
        paused=view.time.paused if view.time else False,
        cold=cold_now(view.cold),
    )


def _steps(view: TableView) -> list[StepOut]:
    return [
        StepOut(
            key=s.step.key,
            title=s.step.title,
            why=s.step.why,
            tool=s.step.tool,
            side=s.step.side,
            caution=next(iter(view.cautions.get(s.step.key, ())), ""),
            cautions=list(view.cautions.get(s.step.key, ())),
            state=s.state,
        )
        for s in view.steps
    ]


def _weighings(view: TableView) -> list[WeighingOut]:
    return [
        WeighingOut(
            id=w.id,
            piece=w.piece,
            side=w.side,
            kg=w.kg,
            method=w.method,
            joint=w.joint or None,
            low_kg=w.low_kg,
            high_kg=w.high_kg,
            rough=w.rough,
        )
        for w in view.weighings
    ]


def _seen(view: TableView) -> list[SeenOut]:
    return [
        SeenOut(
            id=s.row.id,
            what=s.row.what,
            number=s.row.number,
            place=s.row.place,
            piece=s.row.piece or None,
            side=s.row.side or None,
            x=s.row.x,
            y=s.row.y,
            cut_out_kg=s.row.lost_kg or None,
            cut_out_how=s.row.lost_how or None,
        )
        for s in view.seen
    ]


def waste(found: WasteList) -> WasteOut:
    """What goes where."""
    return WasteOut(
        fish=found.fish,
        used=found.use.fraction if found.use and found.use.round_kg else None,
        lines=[
            WasteLineOut(
                fate=line.fate.key if line.fate else None,
                kg=line.kg,
                pieces=[
                    WastePieceOut(piece=piece.key, number=number, kg=kg)
                    for piece, number, kg in line.parts
                ],
            )
            for line in found.lines
        ],
    )
