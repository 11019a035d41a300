"""Logs of freezer places. Their readings lie in slices by day, small and quick to read."""

import json
from datetime import UTC, datetime

import numpy as np

from lepidos.core.freezer.temperature_log import Readings, merged
from lepidos.core.units import DAY_S
from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.ready import Ready
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import find, plain_sql
from lepidos.store.base.standing import all_standing
from lepidos.store.schema.places import TemperatureLogTable, TemperatureSliceTable

_LOGS: Ready[records.TemperatureLog] = all_standing(TemperatureLogTable)
CENTI = 100


def add(
    ids: IdMaker, at: datetime, place_id: str, name: str, log: Readings
) -> records.TemperatureLog:
    """Take readings in, at least one."""
    row: records.TemperatureLog = add_row(
        TemperatureLogTable,
        id=ids.new(at),
        place=place_id,
        name=name,
        first_at=datetime.fromtimestamp(int(log.at_s[0]), UTC),
        last_at=datetime.fromtimestamp(int(log.at_s[-1]), UTC),
        readings=len(log),
        at=at,
    )
    days = log.at_s // DAY_S
    starts = np.flatnonzero(np.append(True, np.diff(days) > 0))
    ends = np.append(starts[1:], len(log))
    at_s = log.at_s.astype("<u4")
    centi = np.round(log.celsius * CENTI).astype("<i2")
    TemperatureSliceTable.insert_many(
        [
            {
                "id": ids.new(at),
                "log": row.id,
                "day": int(days[a]),
                "at_s": at_s[a:b].tobytes(),
                "centi_c": centi[a:b].tobytes(),
            }
            for a, b in zip(starts, ends, strict=True)
        ]
    ).execute()
    return row


def get(row_id: str) -> records.TemperatureLog:
    """Raises Unknown."""
    found: records.TemperatureLog = find(TemperatureLogTable, row_id, "temperature log")
    return found


def logs() -> list[records.TemperatureLog]:
    """Those that stand, in the order in which they were taken in."""
    return _LOGS()


def readings_of(log_ids: list[str], since: datetime | None = None) -> Readings:
    """The readings of logs as one, a later log before an earlier at the same second."""
    query = """
        SELECT log_id, at_s, centi_c FROM temperature_slice
        WHERE log_id IN (SELECT value FROM json_each(?)) AND day >= ? ORDER BY day
    """
    first = int(since.timestamp()) // DAY_S if since else 0
    parts: dict[str, list[Readings]] = {log_id: [] for log_id in log_ids}
    for log_id, at_s, centi in plain_sql(query, json.dumps(log_ids), first):
        at = np.frombuffer(at_s, dtype="<u4").astype(np.int64)
        air = np.frombuffer(centi, dtype="<i2").astype(np.float64) / CENTI
        parts[log_id].append(Readings(at, air))
    return merged([part for log_id in log_ids for part in parts[log_id]])
