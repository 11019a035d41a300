"""Copies of the data file that nobody need ask for: at a start, once a day, on a second disk."""

import threading
from datetime import datetime, timedelta
from pathlib import Path

from lepidos.stations.base.context import AppContext
from lepidos.store.file import backups
from lepidos.store.file.backups import Backup, Why
from lepidos.store.file.data_file import BACKUPS
from lepidos.store.file.database import copy_file, has_all
from lepidos.store.file.file_problems import FileProblem

DAILY = timedelta(hours=24)  # between two copies, at most


def due(newest: datetime | None, now: datetime) -> bool:
    """Whether a day has passed since the newest copy, or the clock was set back before it."""
    return newest is None or not timedelta(0) <= now - newest < DAILY


class Copies:
    """The copies beside the data file, and those in a second folder, if one is named.

    `problem` and `second_problem` say why the last one was not made; "" when it was.
    """

    def __init__(self, data_file: Path, second: Path | None) -> None:
        self.folder, self.second = data_file.parent / BACKUPS, second
        self.problem = self.second_problem = ""
        self._lock = threading.Lock()

    def listed(self) -> list[Backup]:
        """Those beside the file, the newest first."""
        return backups.listed(self.folder)

    def listed_second(self) -> list[Backup]:
        """Those in the second folder, the newest first."""
        return backups.listed(self.second) if self.second else []

    def begin(self, ctx: AppContext) -> None:
        """At a start: a copy, unless the newest one has all that is in the file."""
        self._make_if(ctx, "start", always=True)

    def look(self, ctx: AppContext) -> None:
        """Every now and then: a copy when a day has passed and something was done since."""
        self._make_if(ctx, "daily", always=False)

    def make(self, ctx: AppContext, why: Why) -> None:
        """A copy now, checked; older ones that need not be kept go. Sets `problem`."""
        with self._lock:
            target = self.folder / backups.name_of(ctx.clock(), why)
            try:
                self.folder.mkdir(mode=0o700, exist_ok=True)
                if not backups.has_room(self.folder, ctx.store.path):
                    self.problem = "There is too little room on the disk for another copy."
                    return
                if not target.exists():
                    ctx.store.backup(target)
                backups.prune(self.folder, ctx.clock())
                self.problem = ""
            except (OSError, FileProblem) as error:
                self.problem = f"The last copy could not be made: {error}"
                return
            self._copy_to_second(ctx.clock())

    def _make_if(self, ctx: AppContext, why: Why, always: bool) -> None:
        found, last = self.listed(), ctx.store.last_entry()
        newest = found[0] if found else None
        changed = bool(last) and not (newest and has_all(newest.path, last))
        if changed and (always or due(newest.at if newest else None, ctx.clock())):
            self.make(ctx, why)
        else:
            with self._lock:
                self._copy_to_second(ctx.clock())

    def _copy_to_second(self, now: datetime) -> None:
        """The newest copy to the second folder, when it is there: a stick may be in a pocket."""
        found = self.listed()
        if self.second is None or not found:
            return
        if not self.second.is_dir():
            self.second_problem = f"{self.second} is not there; is the stick plugged in?"
            return
        target = self.second / found[0].path.name
        try:
            if not target.exists():
                copy_file(found[0].path, target)
            backups.prune(self.second, now)
            self.second_problem = ""
        except (OSError, FileProblem) as error:
            self.second_problem = f"The last copy to {self.second} could not be made: {error}"
