"""Ice: how much a catch takes, and how much the box melts on its own."""

from lepidos.core.errors import require

FUSION_KJ = 334.0  # heat of fusion of ice [kJ/kg]
FISH_KJ = 3.6  # heat capacity of fish [kJ/(kg·K)] (memory)


def ice_to_cool(fish_kg: float, from_c: float, to_c: float = 0.0) -> float:
    """Ice that melts to cool fish [kg]: m · c · ΔT / 334 kJ/kg.

    Args: fish_kg 0 to 1e6; temperatures −2 to 60 °C. Fish that is cold enough takes none.
    Source: heat balance; FAO Fisheries Technical Papers 331 and 436 (memory).
    """
    require("fish", fish_kg, 0, 1e6, "kg")
    require("fish temperature", from_c, -2, 60, "°C")
    require("wanted temperature", to_c, -2, 60, "°C")
    return fish_kg * FISH_KJ * max(0.0, from_c - to_c) / FUSION_KJ


def ice_to_cool_fao(fish_kg: float, from_c: float) -> float:
    """FAO's short form, to 0 °C: m · ΔT / 100.

    Example: 10 kg from 25 °C take 2.5 kg (FAO FTP 331/436, memory).
        >>> ice_to_cool_fao(10, 25)
        2.5
    """
    require("fish", fish_kg, 0, 1e6, "kg")
    require("fish temperature", from_c, -2, 60, "°C")
    return fish_kg * max(0.0, from_c) / 100


def box_melt(ua_w_per_k: float, outside_c: float, seconds: float) -> float:
    """Ice that a box melts on its own [kg]: UA · ΔT · t / 334 kJ/kg, its inside at 0 °C."""
    require("UA of the box", ua_w_per_k, 0, 1000, "W/K")
    require("outside temperature", outside_c, -40, 60, "°C")
    require("time", seconds, 0, 1e8, "s")
    return ua_w_per_k * max(0.0, outside_c) * seconds / 1000 / FUSION_KJ
