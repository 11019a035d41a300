"""What is right and wrong with this machine, a line each: for the page and `lepidos doctor`."""

import shutil
from dataclasses import dataclass
from datetime import timedelta

from lepidos.devices.indicator import DeviceError
from lepidos.devices.scale import Scale
from lepidos.devices.stand_ins import simulated_printer, simulated_scale
from lepidos.stations.base.context import AppContext
from lepidos.stations.health.copies import Copies
from lepidos.store.base.ids import clock_is_behind
from lepidos.store.file.backups import Backup
from lepidos.store.file.database import has_all
from lepidos.store.file.file_problems import FileProblem

MIN_FREE_MB = 500  # common practice, no source
OLD_COPY = timedelta(days=3)  # of a crew that lands every day; common practice, no source
LOCAL = ("127.0.0.1", "localhost", "::1")


@dataclass(frozen=True)
class Check:
    """One thing that was looked at: what was found, and what to do when it is not well."""

    name: str
    well: bool
    said: str


def check_all(
    ctx: AppContext, copies: Copies, host: str, is_open: bool = False, is_secret: bool = False
) -> list[Check]:
    """Everything, in the order in which it matters.

    `host`: the address that the app listens on plainly; `is_open`: it asks no device for a code;
    `is_secret`: others reach it over TLS.
    """
    try:
        found = ctx.store.check()
    except FileProblem as problem:
        # nothing else can be asked of a file that is not there
        return [Check("Data file", False, str(problem)), _network(host, is_open, is_secret)]
    return [
        _data_file(ctx, found),
        _room(ctx),
        *_copies(ctx, copies),
        _clock(ctx),
        _network(host, is_open, is_secret),
        *_scales(ctx),
        _printer(ctx),
    ]


def _data_file(ctx: AppContext, found: str) -> Check:
    if found != "ok":
        return Check("Data file", False, f"Damaged: {found}. Go back to a copy.")
    size = ctx.store.path.stat().st_size / 1e6
    return Check("Data file", True, f"{ctx.store.path}, {size:.1f} MB, sound.")


def _room(ctx: AppContext) -> Check:
    free = shutil.disk_usage(ctx.store.path.parent).free / 1e6
    said = f"{free / 1000:.1f} GB free where the data file is."
    if free < MIN_FREE_MB:
        return Check("Room", False, f"{said} Make room before the disk is full.")
    return Check("Room", True, said)


def _copies(ctx: AppContext, copies: Copies) -> list[Check]:
    found = copies.listed()
    checks = [_newest("Copies", copies.problem, found, ctx)]
    if copies.second:
        there = copies.listed_second() if copies.second.is_dir() else []
        missing = "" if copies.second.is_dir() else f"{copies.second} is not there."
        problem = copies.second_problem or missing
        checks.append(_newest("Second folder", problem, there, ctx))
    return checks


def _newest(name: str, problem: str, found: list[Backup], ctx: AppContext) -> Check:
    if problem:
        return Check(name, False, problem)
    last = ctx.store.last_entry()
    if not found:
        return Check(name, not last, "None yet; one is made once a day." if last else "None yet.")
    said = f"The newest is of {found[0].at:%Y-%m-%d %H:%M} UTC, read back and checked."
    if has_all(found[0].path, last):
        return Check(name, True, f"{said} It has all that was entered.")
    return Check(name, ctx.clock() - found[0].at < OLD_COPY, said)


def _clock(ctx: AppContext) -> Check:
    now = ctx.clock()
    if late := clock_is_behind(ctx.store.newest_id(), now):
        return Check("Clock", False, late)
    return Check("Clock", True, f"{now:%Y-%m-%d %H:%M} UTC; new trips are in {ctx.timezone}.")


def _network(host: str, is_open: bool, is_secret: bool) -> Check:
    if host in LOCAL and is_secret and not is_open:
        said = "Devices that were let in open the app, over TLS; this machine opens it plainly."
        return Check("Network", True, said)
    if host in LOCAL and not is_secret:
        return Check("Network", True, "Only this machine can open the app.")
    if is_open:
        said = "whoever is on this network can read and change everything (LEPIDOS_OPEN_TO_ALL)."
        return Check("Network", False, f"It is shared: {said}")
    said = "devices are let in one by one, but what they send can be listened to on the network."
    return Check("Network", False, f"It is shared: {said}")


def _scales(ctx: AppContext) -> list[Check]:
    every = ctx.scales.named or {"Scale": ctx.scale}
    return [_scale(f"Scale {name}" if len(every) > 1 else "Scale", s) for name, s in every.items()]


def _scale(name: str, scale: Scale) -> Check:
    if simulated_scale(scale):
        return Check(name, True, "A stand-in. LEPIDOS_SCALE attaches a real one.")
    try:
        scale.read()
    except DeviceError as error:
        return Check(name, False, str(error))
    return Check(name, True, "It answers.")


def _printer(ctx: AppContext) -> Check:
    if simulated_printer(ctx.printer):
        return Check("Label printer", True, "A stand-in. LEPIDOS_PRINTER names a real one.")
    try:
        ctx.printer.check()
    except DeviceError as error:
        return Check("Label printer", False, str(error))
    return Check("Label printer", True, "It is ready.")
