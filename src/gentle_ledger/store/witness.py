"""The witnesses of a ledger: files that name each hand-over, so that a copy that is put back knows what it lacks.

One lies beside the ledger and one in the user's state folder (XDG Base Directory Specification, `$XDG_STATE_HOME`). A
line is added after the attempt is committed and before the carrier is called, without waiting for the disk: it has the
round's random id, the row and the reference, and no number and no words.
"""

import errno
import hashlib
import os
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from gentle_ledger.core.cells.errors import LedgerError

TRIAL = "trial"
"""What stands for the round of a trial."""
_LEDGER, _TEXT = "ledger", "text"
_FIELDS = 6


class NoWitness(LedgerError):
    """A witness cannot be written, so nothing may be handed over."""

    kind = "no witness"
    status = 507


class OlderThanTheWorld(LedgerError):
    """A witness names a hand-over that the ledger does not have: it is older than the world, or was damaged."""

    kind = "older than the world"


class HandedOver(NamedTuple):
    """A hand-over as a witness names it.

    Attributes:
        at: when, in POSIX seconds.
        line_key: stands for the line, see `line_key`.
        round_uid: the random id of the round, or `TRIAL`.
        row: from 1, or the number of a trial.
        reference: its reference.
    """

    at: float
    line_key: str
    round_uid: str
    row: int
    reference: str


def line_key(identity: str) -> str:
    """Stands for a line without telling which number it sends by (SHA-256, FIPS 180-4)."""
    return hashlib.sha256(identity.encode()).hexdigest()[:16]


def file_beside(path: Path) -> Path:
    """The witness beside a ledger."""
    return Path(f"{path}.handed-over")


class Witness:
    """Both witnesses of a ledger, for the one process that sends from it.

    Args:
        path: of the ledger.
        state: the folder in which the other one lies.
    """

    def __init__(self, path: Path, state: Path) -> None:
        self._path = path
        self.state = state
        self._files: list[_File] = []
        self._named: Counter[str] = Counter()

    def open(self, identity: str, machine: str) -> None:
        """Makes them where they are not there, and names the ledger and this machine in them. Raises NoWitness."""
        self.close()
        opened = self._both(identity)
        for file in opened:
            try:
                file.open(f"{_LEDGER}\t{identity}\t{machine}\n")
            except OSError as fault:
                for each in opened:
                    each.close()
                raise cannot_witness(file.path, fault) from fault
        self._files = opened
        self._named = Counter({reference: len(times) for reference, times in self.all_of(identity).items()})

    def times(self, reference: str) -> int:
        """How often a hand-over under a reference is named, as far as this process knows."""
        return self._named[reference]

    def close(self) -> None:
        """Lets the files go."""
        while self._files:
            self._files.pop().close()

    def _both(self, identity: str) -> "list[_File]":
        return [_File(file_beside(self._path)), _File(self.state / f"{identity}.handed-over")]

    def in_state(self, identity: str) -> bool:
        """Whether the one in the state folder is there, as it is wherever this ledger was used by this user."""
        return self._both(identity)[1].path.exists()

    def other_ledger(self, identity: str) -> bool:
        """Whether the one beside it says that another ledger stood here last."""
        last = ""
        for fields in self._both(identity)[0].lines():
            last = fields[1] if fields[0] == _LEDGER else last
        return last not in {"", identity}

    def note(self, handed: HandedOver) -> None:
        """Adds a line to both, before the text is handed over. Raises NoWitness."""
        if not self._files:
            raise NoWitness("What is handed over cannot be written down, so nothing is sent.")
        self._named[handed.reference] += 1
        at, *named = handed
        line = "\t".join((_TEXT, f"{at:.6f}", *map(str, named))) + "\n"
        for file in self._files:
            try:
                file.add(line)
            except OSError as fault:
                raise cannot_witness(file.path, fault) from fault

    def grew(self) -> bool:
        """Whether anybody else wrote to one of them, or took it away, since this process did last, or none is open."""
        return not self._files or any(file.grew() for file in self._files)

    def all_of(self, identity: str) -> dict[str, list[HandedOver]]:
        """Every hand-over of a ledger that either of them names, by reference."""
        found: dict[str, list[HandedOver]] = {}
        for file in self._both(identity):
            mine: dict[str, list[HandedOver]] = {}
            for handed in _of_ledger(file, identity):
                mine.setdefault(handed.reference, []).append(handed)
            for reference, times in mine.items():
                if len(times) > len(found.get(reference, ())):
                    found[reference] = times
        return found


def _of_ledger(file: "_File", identity: str) -> Iterator[HandedOver]:
    ours = False
    for fields in file.lines():
        if fields[0] == _LEDGER:
            ours = fields[1] == identity
        elif ours and len(fields) == _FIELDS and (handed := _handed(fields)) is not None:
            yield handed


def _handed(fields: list[str]) -> HandedOver | None:
    _, at, key, uid, row, reference = fields
    try:
        return HandedOver(float(at), key, uid, int(row), reference)
    except ValueError:
        return None


class _File:
    """One of them."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._handle: int | None = None
        self._size = 0

    def open(self, header: str) -> None:
        """Opens it for adding to; the header is added where the last one is another."""
        self._open()
        last = ""
        for fields in self.lines():
            last = "\t".join(fields) if fields[0] == _LEDGER else last
        if last != header.rstrip("\n"):
            # A line that was cut off, as by a plug that was pulled, ends here.
            self.add(f"\n{header}" if self._size else header)

    def _open(self) -> None:
        self.path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._handle = os.open(self.path, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600)
        self._size = os.fstat(self._handle).st_size

    def add(self, line: str) -> None:
        """Adds a line, and notes how long the file is then."""
        if self._handle is None:
            raise OSError("it is not open")
        data = line.encode()
        if os.write(self._handle, data) < len(data):
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
        # Counted and not looked up: what anybody else adds meanwhile shows.
        self._size += len(data)

    def grew(self) -> bool:
        """Whether it is another length than this process left it, or is not there any more."""
        if self._handle is None:
            return True
        now = os.fstat(self._handle)
        return now.st_size != self._size or now.st_nlink == 0

    def close(self) -> None:
        """Lets it go."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None

    def lines(self) -> Iterator[list[str]]:
        """Its lines, each as its fields; none where it is not there. What is no line of ours is passed over."""
        try:
            with self.path.open("r", encoding="utf-8", errors="replace") as file:
                for line in file:
                    fields = line.rstrip("\n").split("\t")
                    if fields[0] in {_LEDGER, _TEXT} and len(fields) > 1 and line.endswith("\n"):
                        yield fields
        except FileNotFoundError:
            return
        except OSError as fault:
            raise cannot_witness(self.path, fault) from fault


def cannot_witness(path: Path, fault: OSError) -> NoWitness:
    """That a hand-over cannot be written down, as a sentence."""
    return NoWitness(
        f'What is handed over cannot be written down in "{path}": {fault.strerror or fault}, so nothing is sent.',
        "Give this program the right to write there and room on the disk, or another folder by GENTLE_LEDGER_STATE.",
    )
