"""A bundle brought in: merged with the log that is here, all of it or nothing."""

import threading
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from random import Random
from typing import Literal

import structlog

from lepidos.core.errors import LepidosError, Refused
from lepidos.core.pack.labels import count, make_code, one_line
from lepidos.stations.base.context import AppContext, Receipt, run_idempotent
from lepidos.stations.bundle.read import Contents, contents, read_bundle
from lepidos.stations.freezer.cold_records import all_logs
from lepidos.stations.freezer.holds import recount
from lepidos.stations.guide.own_guide import take_in
from lepidos.store.bundle.merge import merge
from lepidos.store.bundle.merge_names import Report
from lepidos.store.bundle.staged import StagedLog
from lepidos.store.bundle.whole_log import IMPORT
from lepidos.store.deck import fish_now
from lepidos.store.file.backups import name_of
from lepidos.store.file.data_file import BACKUPS
from lepidos.store.pack import bags

MAX_NAME_LENGTH = 80
State = Literal["reading", "ready", "bringing in", "done", "failed", "stopped"]


class Stopped(LepidosError):
    """Somebody stopped it; nothing came in."""


@dataclass
class Coming:
    """A bundle on its way in. `done` is the part of the present state that is done, 0 to 1."""

    token: str
    name: str
    state: State = "reading"
    table: str = ""
    done: float = 0.0
    why: str = ""
    sentence: str = ""
    contents: Contents | None = None
    met: tuple[str, ...] = ()
    stop: threading.Event = field(default_factory=threading.Event)

    def told(self, table: str, part: float) -> None:
        """How far it is. Raises Stopped when somebody wants it no more."""
        if self.stop.is_set():
            raise Stopped("It was stopped; nothing of the bundle came in")
        self.table, self.done = table, part


@dataclass(frozen=True)
class BringIn:
    """An order to merge a bundle, by its digest."""

    digest: str
    name: str


def bring_in(
    ctx: AppContext, key: str, log: StagedLog, order: BringIn, coming: Coming
) -> tuple[Receipt, Report]:
    """Merge a log that was read. A copy of the file as it was before is kept beside it.

    Raises Refused, Stopped; then nothing was changed.
    """
    kept = ctx.store.path.parent / BACKUPS / name_of(ctx.clock(), "bundle")
    if not kept.exists():
        ctx.store.backup(kept)
    report = Report()

    def do(at: datetime) -> Receipt:
        nonlocal report
        report = merge(log.file, _code_of, coming.told)
        coming.told("what is true now", 1.0)
        fish_now.refresh_many(sorted(report.touched["fish"]), ctx.is_fillet)
        bags.refresh_many(sorted(report.touched["bag"]))
        logs = all_logs()
        places = {p for place in logs.of_place for p in logs.with_log_of(place)}
        recount(ctx, bags.ever_in(sorted(places)))
        return Receipt("import", order.digest, _sentence(order.name, report))

    done = run_idempotent(ctx, key, IMPORT, order, do)
    for problem in take_in(ctx):
        structlog.get_logger().warning("own guide", problem=problem)
    return done, report


def _code_of(bag_id: str) -> str:
    """Another code for a bag, the same on every device."""
    return make_code(Random(bag_id))  # noqa: S311 - no secret


def _sentence(name: str, report: Report) -> str:
    if not (sum(report.new.values()) or sum(report.changed.values())):
        return f"{name}: all of it was here already"
    new = report.new
    came = [count(new[t], w, p) for t, w, p in (("trip", "trip", ""), ("fish", "fish", "fish"),
            ("bag", "bag", "")) if new[t]]  # fmt: skip
    said = ", ".join(came) + " new" if came else count(sum(new.values()), "new row")
    changed = sum(report.changed.values())
    return f"{name}: {said}" + (f", {count(changed, 'row')} changed" if changed else "")


class Bundles:
    """Bundles on their way into this file: one at a time, in a thread of its own."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self.coming: Coming | None = None
        self._log: StagedLog | None = None
        self._order: BringIn | None = None

    def begin(self, ctx: AppContext, path: Path, name: str) -> Coming:
        """Read a bundle that lies at a path, which is thrown away after. Raises Refused."""
        with self._lock:
            if self.coming and self.coming.state in {"reading", "bringing in"}:
                path.unlink(missing_ok=True)
                raise Refused({"file": "Another bundle is on its way; wait for it, or stop it"})
            self._forget()
            coming = Coming(uuid.uuid4().hex, one_line(name, MAX_NAME_LENGTH) or "The bundle")
            self.coming = coming
        threading.Thread(target=self._read, args=(ctx, path, coming), daemon=True).start()
        return coming

    def accept(self, ctx: AppContext, key: str, token: str) -> Coming:
        """Merge what was read. Raises Refused when it is not there any more."""
        with self._lock:
            coming = self.coming
            if coming is None or coming.token != token:
                raise Refused({"file": "That bundle is gone; choose the file once more"})
            if coming.state != "ready":
                return coming  # touched twice
            coming.state, coming.done = "bringing in", 0.0
        threading.Thread(target=self._merge, args=(ctx, key, coming), daemon=True).start()
        return coming

    def stop(self) -> None:
        """Leave it: what is read is thrown away, what is being merged is taken back."""
        with self._lock:
            if self.coming is None:
                return
            self.coming.stop.set()
            if self.coming.state in {"ready", "done", "failed", "stopped"}:
                self._forget()
                self.coming = None

    def _forget(self) -> None:
        if self._log:
            self._log.close()
        self._log = None

    def _read(self, ctx: AppContext, path: Path, coming: Coming) -> None:
        def do() -> None:
            beside = path.with_name(path.name + ".log")
            log, digest = read_bundle(ctx, path, beside, coming.told)
            coming.contents = contents(ctx, log)
            with self._lock:
                self._log, self._order = log, BringIn(digest, coming.name)
                coming.state = "ready"

        self._run(coming, do)
        path.unlink(missing_ok=True)

    def _merge(self, ctx: AppContext, key: str, coming: Coming) -> None:
        def do() -> None:
            log, order = self._log, self._order
            if log is None or order is None:
                raise Refused({"file": "That bundle is gone; choose the file once more"})
            done, report = bring_in(ctx, key, log, order, coming)
            coming.sentence, coming.met = done.sentence, tuple(report.met)
            with self._lock:
                coming.state = "done"
                self._forget()

        self._run(coming, do)

    def _run(self, coming: Coming, do: Callable[[], None]) -> None:
        """Do it; what goes wrong is said where the bundle is shown."""
        try:
            do()
        except Stopped as error:
            coming.state, coming.why = "stopped", str(error)
        except LepidosError as error:
            coming.state, coming.why = "failed", str(error)
        except Exception as error:
            structlog.get_logger().error("bundle", exc_info=error)
            coming.state = "failed"
            coming.why = f"It could not be done: {error}. Nothing of the bundle came in."
        finally:
            if coming.state in {"stopped", "failed"}:
                with self._lock:
                    self._forget()
