"""What the store refuses."""

import errno
from pathlib import Path

from sqlalchemy.exc import DBAPIError

from gentle_ledger.core.errors import LedgerError


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


class NoRoom(LedgerError):
    """The ledger cannot be written at present, and can be again once the machine's trouble is mended."""

    kind = "cannot write"
    status = 507


_IN_SQLITE = (
    ("full", "The disk is full, so nothing can be written down.", "Make room on it; nothing is lost."),
    ("readonly", "The ledger's file may not be written.", "Give this program the right to write it."),
    ("unable to open", "The ledger's file cannot be opened.", "See whether its disk and folder are there."),
    ("locked", "Another program keeps the ledger's file locked.", "End that program, or wait until it is done."),
    ("disk i/o", "The disk answers with errors, so nothing can be written down.", "See whether it is full or failing."),
    ("malformed", "The ledger's file is damaged.", "Put a copy in its place that was kept before."),
    ("not a database", "The ledger's file is damaged.", "Put a copy in its place that was kept before."),
)
"""What SQLite says (result codes of its C interface, in words), and what it means to the clerk."""
_IN_SYSTEM = {errno.ENOSPC: 0, errno.EDQUOT: 0, errno.EROFS: 1, errno.EACCES: 1}


def no_room(fault: BaseException) -> NoRoom | None:
    """The trouble with the disk or the file behind an error, as a sentence; None when it is something else."""
    said = ""
    if isinstance(fault, DBAPIError):
        said = str(fault.orig).lower()
    elif isinstance(fault, OSError) and fault.errno in _IN_SYSTEM:
        said = _IN_SQLITE[_IN_SYSTEM[fault.errno]][0]
    found = next((entry for entry in _IN_SQLITE if entry[0] in said), None)
    return NoRoom(found[1], found[2]) if found and said else None


def trouble_in(fault: BaseException) -> str:
    """An error of the sender as a sentence."""
    known = no_room(fault)
    if known:
        return known.sentence
    if isinstance(fault, LedgerError):
        return fault.sentence
    return f"Something went wrong inside the program while sending ({type(fault).__name__}); it tries again by itself."
