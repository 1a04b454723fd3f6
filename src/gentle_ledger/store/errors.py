"""What the store refuses."""

import errno
import os
import shutil
import sqlite3
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sqlalchemy.exc import DBAPIError

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.store.processes import Holder


class NotThere(LedgerError):
    """What was asked for does not exist."""

    kind = "not there"
    status = 404


class NotNow(LedgerError):
    """The round's stage does not allow this."""

    kind = "not now"
    status = 409


class CannotOpen(LedgerError):
    """The ledger's file cannot be opened."""

    kind = "cannot open"
    status = 500

    def __init__(self, path: Path, why: str, remedy: str = "Choose another file with GENTLE_LEDGER_DATA.") -> None:
        super().__init__(f'The ledger cannot be kept in "{path}": {why}.', remedy)


class Displaced(LedgerError):
    """The file that is open does not lie in its place any more: it was removed, or another one was put there."""

    kind = "ledger displaced"
    status = 503

    def __init__(self, path: Path, kept: str, *, gone: bool) -> None:
        what = "is gone from its place" if gone else "was replaced by another file"
        kept_in = f' What was open is kept in "{kept}".' if kept else ""
        super().__init__(
            f'The ledger in "{path}" {what} while it was open, so nothing more is sent or written.{kept_in}',
            "End the program, see that the right file lies there, and start it anew.",
        )


class CannotWrite(LedgerError):
    """The ledger cannot be written or read at present, and can be again once the machine's trouble is mended."""

    kind = "cannot write"

    def __init__(self, status: int, what: str, remedy: str) -> None:
        super().__init__(what, remedy)
        self.status = status

    @property
    def remedy_once(self) -> str:
        """What to do where nothing is tried again by itself, as at the start and for a copy."""
        return "Try again once nobody keeps the ledger any more." if self.status == _LOCKED else self.remedy


_LOCKED = 503
"""The status of what passes as soon as whoever keeps the ledger lets it go (RFC 9110, 15.6.4)."""
_FULL = (507, "The disk is full, so nothing can be written down.", "Make room on it; nothing is lost.")
_NOT_ALLOWED = (507, "The ledger's file may not be written.", "Give this program the right to write it.")
CANNOT_BE_OPENED = (507, "The ledger's file cannot be opened.", "See whether its disk and folder are there.")
"""What `CannotWrite` is made from where there is no such file any more."""
_DAMAGED = (500, "The ledger's file is damaged.", "Put a copy in its place that was kept before.")
_STRANGE = (
    500,
    "The ledger's file is not a database.",
    "Put a copy in its place that was kept before, or choose another file with GENTLE_LEDGER_DATA if it was no ledger.",
)
LOCKED = "The ledger's file is locked"
"""What is said of a ledger that somebody keeps locked begins so."""


def locked(holder: Holder | None) -> CannotWrite:
    """What is said of a ledger that is locked, and by whom."""
    if holder is None:
        return CannotWrite(
            _LOCKED, f"{LOCKED}, and the system does not say by whom.", "It goes on as soon as it is free."
        )
    if holder.ours:
        return CannotWrite(
            _LOCKED,
            f"{LOCKED} for long by this program itself, process {holder.number}.",
            "It goes on by itself; if it does not within a minute, end that process.",
        )
    return CannotWrite(
        503,
        f"{LOCKED} by another program, {holder.name or 'without a name'}, process {holder.number}.",
        "End what that program does with it; it goes on then by itself.",
    )


_IN_SQLITE = {
    "full": _FULL,
    "readonly": _NOT_ALLOWED,
    "unable to open": CANNOT_BE_OPENED,
    "disk i/o": (507, "The disk answers with errors.", "See whether it is full or failing; nothing more is written."),
    "malformed": _DAMAGED,
    "not a database": _STRANGE,
}
"""What SQLite says (result codes of its C interface, in words), the status, and what it means to the clerk."""
_IN_SYSTEM = {errno.ENOSPC: _FULL, errno.EDQUOT: _FULL, errno.EROFS: _NOT_ALLOWED, errno.EACCES: _NOT_ALLOWED}


def cannot_write(fault: BaseException) -> CannotWrite | None:
    """The trouble with the disk or the file behind an error, as a sentence; None when it is something else."""
    found = None
    of = fault.orig if isinstance(fault, DBAPIError) else fault
    if isinstance(fault, DBAPIError | sqlite3.Error):
        said = str(of).lower()
        if "locked" in said:
            return locked(getattr(of, "held_by", None))
        found = next((entry for words, entry in _IN_SQLITE.items() if words in said), None)
    elif isinstance(fault, OSError):
        found = _IN_SYSTEM.get(fault.errno or 0)
    return CannotWrite(*found) if found else None


@dataclass(frozen=True, slots=True)
class Trouble:
    """What keeps a sender from its work, as a sentence, and since when; "" and None when nothing does."""

    reason: str = ""
    since: datetime | None = None


NO_TROUBLE = Trouble()


def cannot_open(path: Path, fault: OSError | DBAPIError | sqlite3.Error) -> CannotOpen:
    """What is said of a ledger that cannot be opened: another file is a remedy only where none lies there."""
    known = cannot_write(fault)
    if known is None or not os.path.exists(path):
        of = fault.orig if isinstance(fault, DBAPIError) else fault
        return CannotOpen(path, (of.strerror if isinstance(of, OSError) else None) or str(of))
    why = known.what.removesuffix(".")
    return CannotOpen(path, f"{why[0].lower()}{why[1:]}", known.remedy_once)


_LEAST_ROOM = 256 * 1024
"""Bytes without which hardly a transaction can be written."""


def no_room_at(path: Path) -> str:
    """That the disk of a file is full, as a sentence; "" while there is room."""
    try:
        free = shutil.disk_usage(path.parent).free
    except OSError:
        return ""
    return "" if free >= _LEAST_ROOM else CannotWrite(*_FULL).sentence


def trouble_in(fault: BaseException) -> str:
    """An error of the sender as a sentence."""
    known = cannot_write(fault)
    if known:
        return known.sentence
    if isinstance(fault, LedgerError):
        return fault.sentence
    return f"Something went wrong inside the program while sending ({type(fault).__name__}); it tries again by itself."
