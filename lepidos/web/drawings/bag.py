"""A bag to scale: its welds, what lies in it, and the room above."""

from dataclasses import dataclass
from functools import lru_cache

from lepidos.core.fish.anatomy import Polygon
from lepidos.core.pack.bag_sizes import HEAD_ROOM_M
from lepidos.stations.pack.planned import PlannedBag
from lepidos.web.drawings.fish import loop

PX_PER_CM = 2.6  # of every bag on the page: one scale, so that sizes can be compared
_BESIDE_CM = 1.0


@dataclass(frozen=True)
class BagDrawing:
    """In centimetres from the upper left corner; without a bag when none is large enough.

    `parts` are outlines with the middle of each and the fish it came from.
    """

    width_cm: float
    height_cm: float
    bag: bool
    seal_cm: float
    parts: tuple[tuple[str, float, float, str], ...]

    @property
    def px(self) -> tuple[int, int]:
        """Its size on the page, at the page's one scale."""
        return round(self.width_cm * PX_PER_CM), round(self.height_cm * PX_PER_CM)


def bag(planned: PlannedBag) -> BagDrawing:
    """The drawing of a bag of the plan."""
    if planned.laid is None:
        return _without(planned)
    tall = planned.laid.length_m * 100
    parts = []
    for row, spot in zip(planned.rows, planned.laid.spots, strict=True):
        # the closed end is at the foot of the drawing, the opening at its head
        x, y = spot.x_m * 100, tall - spot.y_m * 100
        wide, long = spot.width_m * 100, spot.length_m * 100
        path = _placed(row.outline, x, y, wide, long)
        parts.append((path, x + wide / 2, y - long / 2, str(row.row.fish.code)))
    return BagDrawing(planned.laid.size.width_m * 100, tall, True, HEAD_ROOM_M * 50, tuple(parts))


@lru_cache(maxsize=2048)  # every bag is drawn again after each that is sealed
def _placed(outline: Polygon, x: float, y: float, wide: float, long: float) -> str:
    """The path of a part so wide and long, its foot at the left at this place [cm]."""
    return loop([(x + u * wide, y - v * long) for u, v in outline])


def _without(planned: PlannedBag) -> BagDrawing:
    """The pieces side by side, for want of a bag."""
    parts, x = [], _BESIDE_CM
    tall = max(row.part.shape.length_m for row in planned.rows) * 100 + 2 * _BESIDE_CM
    for row in planned.rows:
        wide, long = row.part.shape.width_m * 100, row.part.shape.length_m * 100
        foot = tall - _BESIDE_CM
        path = _placed(row.outline, x, foot, wide, long)
        parts.append((path, x + wide / 2, foot - long / 2, str(row.row.fish.code)))
        x += wide + _BESIDE_CM
    return BagDrawing(x, tall, False, 0.0, tuple(parts))
