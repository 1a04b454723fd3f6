"""Where ledgers lay: one that is gone, or empty now, is not begun anew without a word.

What lies beside it tells of one whose file alone is gone. Where its folder is gone as well, as with a disk that is not
there, a note in the user's state folder does.
"""

import hashlib
import os
from contextlib import suppress
from pathlib import Path

from gentle_ledger.store.errors import CannotOpen
from gentle_ledger.store.witness import file_beside


def refuse_where_one_was(path: Path, state: Path | None = None) -> None:
    """Raises CannotOpen where a ledger lay and none does now, by what lies beside it and in `state`, that folder."""
    if _size(path):
        return
    left = [beside for beside in (file_beside(path), Path(f"{path}-wal")) if _size(beside)]
    if state and (note := _note_of(path, state)).exists():
        left.append(note)
    if left:
        away = " and ".join(f'"{each}"' for each in left)
        raise CannotOpen(
            path,
            "there was a ledger here, and its file is gone" if not path.exists() else "its file is empty now",
            f"See whether its disk is there. Put it back, or a copy of it. To begin an empty one all the same, "
            f"take {away} away as well.",
        )


def note_place(path: Path, state: Path) -> None:
    """Notes that a ledger lies there. Raises OSError."""
    note = _note_of(path, state)
    note.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    handle = os.open(note, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    try:
        os.write(handle, os.fsencode(path.absolute()))
    finally:
        os.close(handle)


def other_places(path: Path, state: Path) -> list[Path]:
    """Where other ledgers lie, by the notes in a state folder: those that are there, and can be looked at."""
    found: list[Path] = []
    for note in sorted((state / "places").glob("*")):
        with suppress(OSError):
            other = Path(os.fsdecode(note.read_bytes()))
            if other != path.absolute() and _size(other):
                found.append(other)
    return found


def _note_of(path: Path, state: Path) -> Path:
    # A path may be longer than the name of a file.
    return state / "places" / hashlib.sha256(os.fsencode(path.absolute())).hexdigest()[:32]


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except FileNotFoundError:
        return 0
