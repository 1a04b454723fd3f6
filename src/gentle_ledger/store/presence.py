"""What a sender says of itself, by another way than the store: that it is there, what hinders it, and since when.

It stands in a small file beside the ledger, one for each line, written over in its place: that goes on where the ledger
is locked, damaged, or its disk is full. Times in it are of a clock that runs alike for all processes of a machine.
"""

import contextlib
import json
import os
import time
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from gentle_ledger.store.errors import NO_TROUBLE, Trouble
from gentle_ledger.store.processes import Seen, seen
from gentle_ledger.store.senders import LineTurn

_SIZE = 4096
"""Bytes of the file, so that what is written over is never longer than before."""
SILENT_AFTER = 5.0
"""Seconds without a word after which that is said."""
HANGS = (
    "The process that sends does not say anything any more. Another one takes its place within half a minute; if this "
    "stays, start the program anew."
)
HUNG_AFTER = 10.0
"""Seconds without a word after which a sender is taken for hung."""


@dataclass(frozen=True, slots=True)
class Presence:
    """What a sender said last.

    Attributes:
        process: its name, see `processes`.
        turn: the number of its turn.
        beat: when that was, in seconds of the clock that only runs forward.
        trouble: what keeps it from its work, as a sentence; "" when nothing does.
        since: since when, in ISO 8601; "" when nothing does.
    """

    process: str
    turn: int
    beat: float
    trouble: str = ""
    since: str = ""

    @property
    def troubled_since(self) -> datetime | None:
        """Since when something hinders it."""
        return datetime.fromisoformat(self.since) if self.since else None


def _file_of(path: Path, line_id: int) -> Path:
    return Path(f"{path}.sender-{line_id}")


def say(path: Path, line_id: int, presence: Presence) -> None:
    """Says it. Raises OSError."""
    said = asdict(presence)
    # What is cut short is a sentence of ours; the rest is bounded.
    said["trouble"] = presence.trouble[:600]
    data = json.dumps(said, ensure_ascii=True).encode()[:_SIZE].ljust(_SIZE)
    handle = os.open(_file_of(path, line_id), os.O_RDWR | os.O_CREAT, 0o600)
    try:
        os.pwrite(handle, data, 0)
    finally:
        os.close(handle)


def heard(path: Path, line_id: int) -> Presence | None:
    """What the sender of a line said last; None where none ever did."""
    for _ in range(3):
        with contextlib.suppress(OSError, ValueError, TypeError):
            # It may just be written over: half of it is no JSON.
            return Presence(**json.loads(_file_of(path, line_id).read_bytes()))
    return None


def can_be_said(path: Path) -> bool:
    """Whether the folder of a ledger takes such files at all: on a disk that takes nothing silence means nothing."""
    with contextlib.suppress(OSError):
        free = os.statvfs(path.parent)
        return os.access(path.parent, os.W_OK) and free.f_bavail > 0
    return False


def silent_for(path: Path, turn: LineTurn) -> float:
    """Seconds since the sender that has a turn said anything; 0 where it runs elsewhere, or never said anything yet."""
    said = heard(path, turn.line_id)
    if said is None or said.process != turn.process or seen(turn.process) is Seen.ELSEWHERE:
        return 0.0
    return max(0.0, time.monotonic() - said.beat)


def runs(turn: LineTurn) -> bool:
    """Whether the process that has a turn runs, as far as can be seen from here."""
    return seen(turn.process) is not Seen.GONE


def trouble_of_sender(path: Path, turn: LineTurn, no_sender: Trouble = NO_TROUBLE) -> Trouble:
    """What the sender that has a turn says that hinders it, or that it says nothing any more.

    `no_sender` is what whoever starts senders knows of one that could not even begin.
    """
    said = heard(path, turn.line_id)
    if not runs(turn):
        # One that cannot even take the turn says why.
        there = said is not None and time.monotonic() - said.beat < SILENT_AFTER and seen(said.process) is Seen.RUNS
        return Trouble(said.trouble, said.troubled_since) if said and there and said.trouble else no_sender
    silent = silent_for(path, turn)
    if silent > SILENT_AFTER:
        since = datetime.now(UTC) - timedelta(seconds=silent)
        # To the second, so that the same trouble is the same one at the next look.
        return Trouble(HANGS, since.replace(microsecond=0))
    if said is None or said.process != turn.process:
        return NO_TROUBLE
    return Trouble(said.trouble, said.troubled_since)
