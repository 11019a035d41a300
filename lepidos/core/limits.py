"""How small and how large a fish and a piece may be: the same at the door and behind it.

Every function of the core that takes a fish takes all of these, so that what was landed can always
be shown. What is improbable inside them is asked about, never refused: see `catch`.
"""

from lepidos.core.errors import require

# Wider than any fish of the guide at 1.25 times its longest, five times off its weight.
MIN_FISH_M, MAX_FISH_M = 0.01, 20.0
MIN_FISH_KG, MAX_FISH_KG = 1e-7, 50_000.0
# What a kitchen scale can tell from nothing, and what a hoist can lift.
MIN_PIECE_KG, MAX_PIECE_KG = 0.0001, 5000.0
# A spot that is cut out: from a worm to a shark's bite.
MIN_ACROSS_M, MAX_ACROSS_M = 0.002, 0.5

# What a fish box lets in of a degree outside [W/K].
MIN_BOX_W_PER_K, MAX_BOX_W_PER_K = 0.05, 100.0


def require_length(length_m: float) -> float:
    """A fish's length [m], 0.01 to 20. Raises OutOfRange."""
    return require("length", length_m, MIN_FISH_M, MAX_FISH_M, "m")


def require_weight(kg: float, name: str = "round weight") -> float:
    """A whole or gutted fish's mass [kg], 1e-7 to 50 000. Raises OutOfRange."""
    return require(name, kg, MIN_FISH_KG, MAX_FISH_KG, "kg")
