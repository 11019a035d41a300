"""How thick a fish of this length is: what weighs more than its length says is plumper, not longer.

W = a·L^b with b above 3 says that large fish are plumper. The outline keeps its proportions, and
the width takes what the exponent adds: of 56 perch (Stat2Data::Perch) the width grows as L^1.11
and the weight as L^3.16, so two thirds of it are the width's.
"""

import math
from dataclasses import replace

from lepidos.core.fish.anatomy import Body, volume_weight_kg
from lepidos.core.fish.lengths import to_length_type
from lepidos.core.fish.species import Species
from lepidos.core.limits import require_length, require_weight

# However far off the sizes that were measured, no fish is thinner or plumper than this (practice).
MIN_GIRTH, MAX_GIRTH = 0.5, 2.0


def body_at(
    body: Body, species: Species, total_length_m: float, round_kg: float | None = None
) -> Body:
    """The body of a fish of this length, and of this weight where that is known.

    The guide's own is that of the middle of the sizes that were measured.

    Args: total_length_m and round_kg within `limits`.
    Raises: OutOfRange.
    """
    require_length(total_length_m)
    if round_kg is not None:
        girth = require_weight(round_kg) / volume_weight_kg(body, total_length_m)
    else:
        fit = species.length_weight
        length_m = to_length_type(total_length_m, "total", fit.length_type, species.total_per)
        middle_m = math.sqrt(fit.smallest_cm * fit.largest_cm) / 100
        girth = (length_m / middle_m) ** (fit.b - 3)
    return replace(body, girth=min(MAX_GIRTH, max(MIN_GIRTH, girth)))
