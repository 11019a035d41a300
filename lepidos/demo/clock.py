"""The demo's clock: early afternoon when the day is made, then from where it was left.

Started at night or a week later, the day still reads as a day, and no fish has waited meanwhile.
"""

from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from lepidos.store.base.ids import read_id

MADE_AT = time(13, 10)  # two boards are busy, eighteen fish wait
AFTER = timedelta(minutes=1)


def demo_clock(newest_id: str, now: datetime, zone: ZoneInfo) -> datetime:
    """At which moment the demo starts.

    Args:
        newest_id: The newest key of the demo's file; "" when its day is still to be made.
    """
    if known := read_id(newest_id):
        return known.datetime + AFTER
    return datetime.combine(now.astimezone(zone).date(), MADE_AT, zone)
