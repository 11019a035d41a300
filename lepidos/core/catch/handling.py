"""What is done to a fish between the hook and the board, and what late or missing steps mean.

The steps, their order and what their lack costs are common practice, no published source.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Literal

from lepidos.core.errors import require
from lepidos.core.units import DAY_S, HOUR_S

BLED_LATE_S = 15 * 60.0  # blood has begun to spread by then (practice)
UNICED_S = 15 * 60.0  # on deck, not on ice (practice)
GUT_IN_S = 2 * HOUR_S  # gut and gills out when it waits longer (practice)
OVERNIGHT_S = 8 * HOUR_S  # the night's wait that gills and gut must not see (practice)
RESTED_S = 2 * DAY_S  # "up to about two days" on ice before cutting (practice)
FIRM_C = 2.0  # cold through: firm, and easy to trim (practice)

Urgency = Literal["now", "watch", "good"]


@dataclass(frozen=True)
class State:
    """Something that is done to a fish: its word, and the medium it lies in from then on.

    A state with a medium may come again, as when a fish is taken out of the ice and put back.
    """

    key: str
    word: str
    medium: str = ""


STATES: dict[str, State] = {
    s.key: s
    for s in (
        State("dispatched", "dispatched"),
        State("bled", "bled"),
        State("gills_out", "gills out"),
        State("gutted", "gutted"),
        State("headed", "head off"),
        State("iced", "on drained ice", "drained_ice"),
        State("slurry", "in ice slurry", "ice_slurry"),
        State("brine", "in chilled brine", "brine"),
        State("meltwater", "lying in meltwater", "ice_slurry"),
        State("unpacked", "out of the ice", "open_air"),
    )
}
MEDIUM_STATES = tuple(key for key, state in STATES.items() if state.medium)


@dataclass(frozen=True)
class Advice:
    """One plain sentence about a fish, and how much it presses."""

    text: str
    urgency: Urgency


def advise(
    states: Mapping[str, float],
    lying: str,
    traits: Collection[str],
    lain_s: float,
    core_c: float | None = None,
    bought: bool = False,
) -> tuple[Advice, ...]:
    """What to do about a fish that waits, most pressing first.

    Args:
        states: State key → seconds after landing when it was first so.
        lying: The state that says where it lies now ("" on deck since it was landed).
        traits: The species' traits; "histamine" makes warm time press.
        lain_s: Seconds since landing, 0 to 1e8.
        core_c: Core temperature where it is known [°C].
        bought: It came dead, at a time nobody noted: it is not dispatched or bled any more.
    Raises: OutOfRange.
    """
    require("time since landing", lain_s, 0, 1e8, "s")
    found = [
        *_cold(lying, "histamine" in traits, lain_s, bought),
        *([] if bought or "headed" in states else _bleeding(states, lain_s)),
        *_gutting(states, lain_s, bought),
        *_rest(states, lying, lain_s, core_c),
    ]
    rank = {"now": 0, "watch": 1, "good": 2}
    return tuple(sorted(found, key=lambda a: rank[a.urgency]))


def _cold(lying: str, histamine: bool, lain_s: float, bought: bool) -> list[Advice]:
    if lying == "meltwater":
        return [Advice("Lying in meltwater: drain the box.", "now")]
    if STATES[lying].medium if lying else "":
        if lying != "unpacked":
            return []
        return [Advice("Out of the ice: put it back.", "now")]
    if lain_s < UNICED_S and not histamine:
        return []
    urgency: Urgency = "now" if histamine or lain_s >= 4 * UNICED_S else "watch"
    since = f", {_duration(lain_s)} {'since you noted it' if bought else 'after landing'}"
    return [Advice(f"Not on ice yet{since if lain_s >= 30 else ''}: ice it.", urgency)]


def _bleeding(states: Mapping[str, float], lain_s: float) -> list[Advice]:
    if "bled" in states:
        late = states["bled"]
        if late <= BLED_LATE_S:
            return []
        return [Advice(f"Bled {_duration(late)} after landing: some pink meat is likely.", "watch")]
    if lain_s <= BLED_LATE_S:
        first = "" if "dispatched" in states else "Dispatch it and "
        return [Advice(f"{first}bleed it at once.".capitalize(), "now")]
    return [Advice("Not bled: expect pink meat; put it first.", "now")]


def _gutting(states: Mapping[str, float], lain_s: float, bought: bool) -> list[Advice]:
    headed = "headed" in states
    gills, gut = headed or "gills_out" in states, headed or "gutted" in states
    if gills and gut:
        return []
    if bought and not gut:
        return [Advice("Bought with its gut in: take gut and gills out first.", "watch")]
    if lain_s >= OVERNIGHT_S and not gills:
        return [Advice("Gills in overnight: take them out.", "now")]
    if lain_s >= GUT_IN_S and not gut:
        return [Advice(f"Gut in for {_duration(lain_s)}: take gut and gills out.", "watch")]
    return []


def _rest(
    states: Mapping[str, float], lying: str, lain_s: float, core_c: float | None
) -> list[Advice]:
    if lying != "iced":
        return []
    if lain_s >= RESTED_S:
        return [Advice("Two days on ice: rested enough, cut it.", "watch")]
    if core_c is not None and core_c > FIRM_C:
        return [Advice("Still warm inside; a cold fillet is firmer and easier to trim.", "good")]
    if core_c is not None and "gutted" in states:
        return [Advice("Cold and firm. It may rest gutted on ice up to about two days.", "good")]
    return []


def _duration(seconds: float) -> str:
    minutes = round(seconds / 60)
    if minutes < 100:
        return f"{minutes} min"
    return f"{seconds / HOUR_S:.0f} h" if seconds < 2 * DAY_S else f"{seconds / DAY_S:.0f} days"
