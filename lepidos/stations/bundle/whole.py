"""What a whole log must hold to, whoever wrote it: a page could not show it otherwise."""

from datetime import datetime, timedelta

from lepidos.core.errors import BadInput
from lepidos.core.freezer.keeping_time import MINUTES_PER_DAY
from lepidos.core.freezer.temperature_log import MAX_MINUTES
from lepidos.core.limits import MAX_FISH_M
from lepidos.guide.library import Guide
from lepidos.stations.bundle.known_words import check_words
from lepidos.stations.pack.by_hand import MIN_SIDE_M
from lepidos.store.base.ids import read_id
from lepidos.store.bundle.log_queries import first_odd, newest_key
from lepidos.store.bundle.whole_log import LogFile, shapes

AHEAD = timedelta(days=31)  # a machine's clock that stands wrong is mostly behind (practice)


def check_whole(guide: Guide, now: datetime, file: LogFile) -> None:
    """Raise BadInput for what no single value shows: times to come, unknown words, odd relations.

    `file`: a log at today's schema whose rows were checked one by one, see `row_checks`.
    """
    _check_times(now, file)
    check_words(guide, file)
    days = MAX_MINUTES / MINUTES_PER_DAY
    limits = {"fish_m": MAX_FISH_M, "days": days, "side": MIN_SIDE_M * 0.999}
    if odd := first_odd(file, limits):
        raise BadInput(odd)


def _check_times(now: datetime, file: LogFile) -> None:
    """Keys rise from the newest: one of next year would be in the way of all that come after."""
    for shape in shapes(file):
        made = read_id(newest_key(file, shape))
        if shape.key == "id" and made and made.datetime > now + AHEAD:
            raise BadInput(
                f"data/{shape.name}.csv: the newest row was made on {made.datetime:%Y-%m-%d}, "
                "which is still to come. Set the clock of both machines"
            )
