"""What every station works with, and the one way in which something is written."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from random import Random
from typing import TypeVar

from lepidos.core.errors import Conflict, Refused
from lepidos.devices.freezer_logger import FreezerLogger, SimulatedLogger
from lepidos.devices.printer import LabelPrinter
from lepidos.devices.probe import Probe, SimulatedProbe
from lepidos.devices.scale import Scale
from lepidos.devices.scales import Scales
from lepidos.guide.library import Guide
from lepidos.stations.base import acting
from lepidos.stations.base.changes import Changes, Memo
from lepidos.stations.base.digest import digest_of, old_digest_of
from lepidos.stations.base.printing import LabelQueue
from lepidos.stations.base.search import OrderSearch
from lepidos.stations.base.split_search import SplitSearch
from lepidos.store.base import entries
from lepidos.store.base.ids import IdMaker
from lepidos.store.file.database import Store
from lepidos.store.records import Entry

Found = TypeVar("Found")
SAME_MOMENT = timedelta(seconds=5)  # two entries so close are one touch's (practice)
_KEY = re.compile(r"[A-Za-z0-9_-]{8,64}")


def _no_logger() -> FreezerLogger:
    """The stand-in without its battery."""
    return SimulatedLogger(lambda: 0.0, Random(0))  # noqa: S311


@dataclass(frozen=True)
class AppContext:
    """The data file, the guide, the clock, chance, and the devices by their ports.

    `timezone` is given to new trips; `link_base` is the address that labels point to, if any.
    `own_problems` says why a fish or plan of the crew's own is set aside, by kind and key.
    """

    store: Store
    guide: Guide
    clock: Callable[[], datetime]
    ids: IdMaker
    rng: Random
    scale: Scale
    printer: LabelPrinter
    timezone: str = "UTC"
    link_base: str = ""
    scales: Scales = field(default_factory=Scales)
    labels: LabelQueue = field(default_factory=LabelQueue)
    probe: Probe = field(default_factory=SimulatedProbe)
    logger: FreezerLogger = field(default_factory=_no_logger)
    own_problems: dict[tuple[str, str], str] = field(default_factory=dict)
    search: OrderSearch = field(default_factory=OrderSearch)
    splits: SplitSearch = field(default_factory=SplitSearch)
    changes: Changes = field(default_factory=Changes)
    memo: Memo = field(default_factory=Memo)

    def scale_at(self, name: str) -> Scale:
        """The scale of that name; the first one when nobody has it."""
        return self.scales.find(name) or self.scale

    def is_fillet(self, piece: str) -> bool:
        """Whether a piece belongs in the fillet yield's numerator."""
        return self.guide.piece(piece).counts_as == "fillet"


@dataclass(frozen=True)
class Receipt:
    """What a use case did: the row it made, one sentence, and perhaps a question about it.

    `undoes` is the row that was undone, when that is what was done.
    """

    subject_kind: str
    subject_id: str
    sentence: str
    question: str = ""
    undoes: str = ""
    repeated: bool = False


def run_idempotent(
    ctx: AppContext, key: str, action: str, order: object, do: Callable[[datetime], Receipt]
) -> Receipt:
    """Carry out `do` in one transaction, at most once for a key.

    The same key with the same order returns what the first request did. `order` must be a frozen
    dataclass of plain values.

    Raises:
        Conflict: the key was used for something else.
        Refused: the key is malformed; and whatever `do` raises, with nothing written.
    """
    if not _KEY.fullmatch(key):
        raise Refused({"key": "This request has no usable key; reload the page and try again"})
    digest = digest_of(order)
    with ctx.store.writing():
        if earlier := entries.by_key(key):
            same = earlier.digest in (digest, old_digest_of(order))
            if earlier.action != action or not same:
                raise Conflict(
                    f"This was sent before as something else ({earlier.sentence}). "
                    "Nothing was changed; reload the page and try again."
                )
            return _receipt(earlier)
        at = ctx.clock()
        done = do(at)
        entries.add(
            key=key,
            action=action,
            digest=digest,
            subject_kind=done.subject_kind,
            subject_id=done.subject_id,
            sentence=done.sentence,
            question=done.question,
            undoes=done.undoes,
            at=at,
            device=acting.device_name.get(),
        )
    ctx.changes.tell()
    return done


def read_first(ctx: AppContext, key: str, read: Callable[[], Found]) -> Found | None:
    """What a device shows, read before a use case's transaction: a slow one holds up nobody else.

    None where the request was carried out already: then nothing is read again.
    """
    with ctx.store.reading():
        if entries.by_key(key):
            return None
    return read()


def state_of_file(ctx: AppContext) -> tuple[str, int]:
    """What an answer about now depends on: the last entry, and the time in steps of half a minute.

    Called inside an open transaction.
    """
    return (entries.last_key(), int(ctx.clock().timestamp() // 30))


# What is done of pieces and bags changes no fish's cold and nobody's order of work; that a fish is
# finished does.
_OF_PIECES = ("table", "seen", "fates", "pack", "freezer", "book")
_OF_A_FISH = "table.close"


def state_of_order(ctx: AppContext) -> tuple[str, int]:
    """As `state_of_file`, for answers that do not depend on pieces and bags."""
    latest = ctx.memo.get(
        ("state of order", entries.last_key()),
        lambda: entries.last_key_of_order(_OF_PIECES, _OF_A_FISH),
    )
    return (latest, int(ctx.clock().timestamp() // 30))


def what_was_done(ctx: AppContext, key: str) -> Receipt | None:
    """What the request with this key did; None when there was none or it has been undone."""
    if not _KEY.fullmatch(key):
        return None
    with ctx.store.reading():
        earlier = entries.by_key(key)
        if earlier is None:
            return None
        done = _receipt(earlier)
        if entries.is_undone(done.subject_id):
            return replace(done, subject_id="", question="")
        return done


def just_done(ctx: AppContext, key: str) -> Receipt | None:
    """`what_was_done`, for a page that says so and offers to undo it: only of the last act.

    A page that is loaded again must not offer to undo what something else has followed. What
    another device did in the moment between is not the reader's: then it is said without the undo.
    """
    if not _KEY.fullmatch(key):
        return None
    with ctx.store.reading():
        entry, is_last = entries.by_key(key), entries.last_key() == key
    done = what_was_done(ctx, key)
    if done is None or is_last or entry is None:
        return done
    if abs(ctx.clock() - entry.at) > SAME_MOMENT:
        return None
    return replace(done, subject_id="", question="")


def _receipt(entry: Entry) -> Receipt:
    return Receipt(
        entry.subject_kind,
        entry.subject_id,
        entry.sentence,
        entry.question,
        entry.undoes,
        repeated=True,
    )
