"""Devices that were let in, and let out again."""

from datetime import datetime

from lepidos.store import records
from lepidos.store.base.ids import IdMaker
from lepidos.store.base.rows import add as add_row
from lepidos.store.base.rows import change as change_row
from lepidos.store.base.rows import find, first, read
from lepidos.store.schema.devices import DeviceTable


def add(ids: IdMaker, at: datetime, **values: object) -> records.Device:
    """A device that was let in."""
    return add_row(DeviceTable, id=ids.new(at), at=at, withdrawn_at=None, **values)


def get(device_id: str) -> records.Device:
    """Raises Unknown."""
    found: records.Device = find(DeviceTable, device_id, "device")
    return found


def by_token(token: str) -> records.Device | None:
    """The device that holds what has this SHA-256, withdrawn or not."""
    found: records.Device | None = first(DeviceTable.select().where(DeviceTable.token == token))
    return found


def every() -> list[records.Device]:
    """All that were ever let in, the newest first."""
    return read(DeviceTable.select().order_by(DeviceTable.id.desc()))


def withdraw(device: records.Device, at: datetime) -> records.Device:
    """It may do nothing from now on."""
    found: records.Device = change_row(DeviceTable, device, withdrawn_at=at)
    return found
