"""Ice: how much a catch takes, and how much the box melts on its own."""

from dataclasses import dataclass

from lepidos.core.errors import require

FUSION_KJ = 334.0  # heat of fusion of ice [kJ/kg]
FISH_KJ = 3.6  # heat capacity of fish [kJ/(kg·K)] (memory)


def ice_to_cool(fish_kg: float, from_c: float, to_c: float = 0.0) -> float:
    """Ice that melts to cool fish [kg]: m · c · ΔT / 334 kJ/kg.

    Args: fish_kg 0 to 1e6; temperatures −2 to 60 °C. Fish that is cold enough takes none.
    Raises: OutOfRange.
    Source: heat balance; FAO Fisheries Technical Papers 331 and 436 (memory).
    """
    require("fish", fish_kg, 0, 1e6, "kg")
    require("fish temperature", from_c, -2, 60, "°C")
    require("wanted temperature", to_c, -2, 60, "°C")
    return fish_kg * FISH_KJ * max(0.0, from_c - to_c) / FUSION_KJ


def ice_to_cool_fao(fish_kg: float, from_c: float) -> float:
    """FAO's short form, to 0 °C: m · ΔT / 100 [kg].

    Args: fish_kg 0 to 1e6; from_c −2 to 60 °C.
    Raises: OutOfRange.
    Example: 10 kg from 25 °C take 2.5 kg (FAO FTP 331/436, memory).
        >>> ice_to_cool_fao(10, 25)
        2.5
    """
    require("fish", fish_kg, 0, 1e6, "kg")
    require("fish temperature", from_c, -2, 60, "°C")
    return fish_kg * max(0.0, from_c) / 100


def box_melt(ua_w_per_k: float, outside_c: float, seconds: float) -> float:
    """Ice that a box melts on its own [kg]: UA · ΔT · t / 334 kJ/kg, its inside at 0 °C.

    Args: ua_w_per_k 0 to 1000 W/K; outside_c −40 to 60 °C; seconds 0 to 1e8.
    Raises: OutOfRange.
    Source: heat balance.
    """
    require("UA of the box", ua_w_per_k, 0, 1000, "W/K")
    require("outside temperature", outside_c, -40, 60, "°C")
    require("time", seconds, 0, 1e8, "s")
    return ua_w_per_k * max(0.0, outside_c) * seconds / 1000 / FUSION_KJ


@dataclass(frozen=True)
class IceAccount:
    """Where the ice aboard went and will go [kg]; heat [kJ] that it could not take is `unmet_kj`.

    `left` and `needed` are now; `carries` is the warm fish that could still be cooled with what
    then is over, None where nothing is known to come warm.
    """

    aboard: float
    melted_by_fish: float
    melted_by_box: float
    left: float
    unmet_kj: float
    needed_by_fish: float
    needed_by_box: float
    carries: float | None

    @property
    def needed(self) -> float:
        """Ice for what waits and for the run home [kg]."""
        return self.needed_by_fish + self.needed_by_box

    @property
    def over(self) -> float:
        """What is left when all that is done [kg]; negative when it will not do."""
        return self.left - self.needed


def account(
    aboard_kg: float,
    taken_kj: float,
    to_take_kj: float,
    ua_w_per_k: float,
    outside_c: float,
    passed_s: float,
    to_come_s: float,
    fish_c: float | None = None,
) -> IceAccount:
    """The balance of a box of ice: every kilojoule melts 1/334 kg, or is not taken.

    Args:
        aboard_kg: Ice at the start, 0 to 1e5. taken_kj, to_take_kj: heat out of the fish so far,
            and still to come, 0 to 1e9. ua_w_per_k: of the box, 0 to 1000.
        outside_c: Air around the box, −40 to 60. passed_s, to_come_s: 0 to 1e8.
        fish_c: How warm fish come aboard, for `carries`.
    Raises: OutOfRange.
    """
    require("ice aboard", aboard_kg, 0, 1e5, "kg")
    require("heat taken", taken_kj, 0, 1e9, "kJ")
    require("heat to take", to_take_kj, 0, 1e9, "kJ")
    by_fish = taken_kj / FUSION_KJ
    by_box = box_melt(ua_w_per_k, outside_c, passed_s)
    wanted = by_fish + by_box
    # when it ran out, what did melt is shared in proportion and the rest was not taken
    share = min(1.0, aboard_kg / wanted) if wanted > 0 else 1.0
    left = max(0.0, aboard_kg - wanted)
    need_fish, need_box = to_take_kj / FUSION_KJ, box_melt(ua_w_per_k, outside_c, to_come_s)
    carries = None
    if fish_c is not None and fish_c > 0:
        carries = max(0.0, left - need_fish - need_box) * FUSION_KJ / (FISH_KJ * fish_c)
    return IceAccount(
        aboard_kg,
        by_fish * share,
        by_box * share,
        left,
        (1 - share) * wanted * FUSION_KJ,
        need_fish,
        need_box,
        carries,
    )
