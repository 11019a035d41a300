"""One list of settings: name, default, help. Each is read from LEPIDOS_<NAME> in capitals."""

from datetime import datetime
from pathlib import Path
from typing import Literal
from zoneinfo import ZoneInfo, available_timezones

from platformdirs import user_data_path
from pydantic import Field, field_validator
from pydantic_settings import BaseSettings, SettingsConfigDict

from lepidos.devices.scales import UNNAMED, named_lines

LOCAL = ("127.0.0.1", "localhost", "::1")


class Settings(BaseSettings):
    """A wrong value stops the start with a sentence."""

    model_config = SettingsConfigDict(env_prefix="LEPIDOS_", extra="ignore")

    data_dir: Path = Field(
        default_factory=lambda: user_data_path("lepidos"),
        description="Folder of the data file lepidos.sqlite",
    )
    host: str = Field("127.0.0.1", description="Address to listen on")
    port: int = Field(8000, ge=1, le=65535, description="Port to listen on")
    allowed_hosts: str = Field(
        "",
        description="More host names the app may be called by, with commas; "
        "needed when other devices reach it by the machine's name or address",
    )
    timezone: str = Field("", description="Time zone of new trips, such as Europe/Lisbon")
    link_base: str = Field(
        "", description="Address that labels' QR codes point to; empty: the code"
    )
    log_level: Literal["debug", "info", "warning", "error"] = Field("info", description="Log level")
    clock_at: datetime | None = Field(
        None, description="Start the app's clock at this moment (for demos and tests)"
    )
    search_seconds: float = Field(
        5.0,
        ge=0,
        le=60,
        description="How long a better order of work is looked for in the background; 0: never",
    )
    scale: str = Field(
        "",
        description="Bench scale on a line: a serial port such as /dev/ttyUSB0, or "
        "socket://host:port; several with names and commas, Ines=/dev/ttyUSB0, Tobias=…; empty: "
        "the stand-in. See docs/scale-line.md",
    )
    scale_baud: int = Field(9600, ge=300, le=921600, description="Speed of the scale's serial port")
    printer: str = Field(
        "",
        description="Label printer: lp for the system's default printer, lp:NAME for another of "
        "its queues; empty: the stand-in",
    )
    log_folder: Path | None = Field(
        None,
        description="Folder that freezers' loggers write their files into, each by the name of its "
        "place; empty: logs in the data folder",
    )
    logger: str = Field(
        "",
        description="Freezer loggers on a line, each by the name of its place: "
        "chest=/dev/ttyUSB1, drawer=socket://host:port; their readings go into that folder",
    )
    share: bool = Field(
        False,
        description="Let phones and tablets in over TLS on every network of this machine; the same "
        "as run --share",
    )
    share_port: int = Field(8443, ge=1, le=65535, description="Port for those")
    open_to_all: bool = Field(
        False,
        description="Every device that reaches the app may do everything, without a code: names, "
        "bags and the log are then everybody's on that network",
    )
    backup_folder: Path | None = Field(
        None,
        description="Second folder for copies of the data file, such as one on a USB stick; "
        "the first is backups beside the file",
    )
    demo: bool = Field(False, description="Say on every page that this is the demo")

    @property
    def is_shared(self) -> bool:
        """Whether other machines can reach the app."""
        return self.share or self.host not in LOCAL

    @field_validator("timezone")
    @classmethod
    def _known_zone(cls, value: str) -> str:
        if value and value not in available_timezones():
            raise ValueError(f"“{value}” is not a time zone, such as Europe/Lisbon")
        return value

    @field_validator("scale")
    @classmethod
    def _known_scales(cls, value: str) -> str:
        named_lines(value)
        return value

    @field_validator("logger")
    @classmethod
    def _known_loggers(cls, value: str) -> str:
        if any(name.startswith(UNNAMED) for name in named_lines(value)):
            raise ValueError("say the place of each logger, as in chest=/dev/ttyUSB1")
        return value

    @field_validator("printer")
    @classmethod
    def _known_printer(cls, value: str) -> str:
        if value and value != "lp" and not value.startswith("lp:"):
            raise ValueError(f"“{value}” is not a printer; say lp, or lp:NAME")
        return value

    @field_validator("clock_at")
    @classmethod
    def _zoned(cls, value: datetime | None) -> datetime | None:
        if value is not None and value.tzinfo is None:
            raise ValueError("say the zone too, as in 2026-07-14T13:10+00:00")
        return value

    @property
    def data_file(self) -> Path:
        """The data file."""
        return self.data_dir / "lepidos.sqlite"

    @property
    def zone_name(self) -> str:
        """The zone of new trips: as set, or the machine's, or UTC."""
        return self.timezone or _machine_zone()


def _machine_zone() -> str:
    try:
        link = str(Path("/etc/localtime").resolve())
        name = link.split("zoneinfo/", 1)[1]
        ZoneInfo(name)
    except (IndexError, ValueError, OSError, KeyError):
        return "UTC"
    return name
