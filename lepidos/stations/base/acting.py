"""Which device is acting: said by whoever takes a request in, noted in every entry."""

from contextvars import ContextVar

# "" is the machine that the app runs on
device_name: ContextVar[str] = ContextVar("device_name", default="")
