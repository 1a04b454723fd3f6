"""What a count of all rows gives back: marks, findings and sums, packed so that taking them in delays nobody."""

import pickle
from array import array
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.checks import CHECKS, Finding
from gentle_ledger.core.rounds.compute import Computed, Standing
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.store.history import Read

_CHUNK = 256
"""Rows whose reasons are unpacked together: some tenths of a millisecond."""
_MARKS = tuple(PlanMark)

Token = tuple[int, int]
"""Stands for one count: the process that made it, and which of its counts it was."""


@dataclass(frozen=True, slots=True)
class FoundBy:
    """What one check found in all rows.

    Attributes:
        check: its key.
        sentence: what it says of them together.
        packed: the rows it found, from 0; see `rows`.
    """

    check: str
    sentence: str
    packed: bytes

    @property
    def rows(self) -> Sequence[int]:
        """The rows (from 0), each once, in order."""
        return array("I", self.packed)


@dataclass(frozen=True, slots=True)
class Counted:
    """All rows of a round at one version, counted.

    Attributes:
        token: stands for this count.
        read: up to where the record of other rounds was read.
        marks: one byte a row, the place of its mark among the marks there are.
        found: what the checks found, in their order.
        texts, parts: how many texts may be sent, and how many parts they are carried in altogether.
        packed: reasons and findings of the rows that have any, so many rows together; see `standing`.
    """

    token: Token
    read: Read | None
    marks: bytes
    found: tuple[FoundBy, ...]
    texts: int
    parts: int
    packed: tuple[bytes, ...]

    def count(self, mark: PlanMark) -> int:
        """How many rows have the mark."""
        return self.marks.count(_MARKS.index(mark))

    def rows_with(self, mark: str) -> Iterable[int]:
        """The rows (from 0) that have the mark, in order; none for one that a round gets only once it is started."""
        return (row for row, place in enumerate(self.marks) if _MARKS[place] == mark)

    def rows_found(self, check: str) -> Sequence[int]:
        """The rows (from 0) in which the check of that key found something, in order."""
        return next((found.rows for found in self.found if found.check == check), ())

    def standing(self, row: int) -> Standing:
        """Where a row (from 0) stands."""
        return self.standings((row,))[0]

    def standings(self, rows: Iterable[int]) -> list[Standing]:
        """Where some rows (from 0) stand."""
        chunks: dict[int, _Chunk] = {}
        found = []
        for row in rows:
            place = row // _CHUNK
            if place not in chunks:
                chunks[place] = pickle.loads(self.packed[place])
            reasons, findings = chunks[place].get(row, ((), ()))
            found.append(Standing(_MARKS[self.marks[row]], reasons, findings))
        return found


_Chunk = dict[int, tuple[tuple[Reason, ...], tuple[Finding, ...]]]
"""Of the rows that have any: reasons, and what the checks found."""


@dataclass(frozen=True, slots=True)
class StillSo:
    """The answer when a known count still holds: the record was read up to `read`, and nothing in it concerns it."""

    read: Read | None


def counted_of(computed: Computed, token: Token) -> Counted:
    """Packs what was computed."""
    found = []
    for check in CHECKS:
        if mine := computed.by_check.get(check.key):
            rows = array("I", sorted({finding.row for finding in mine}))
            found.append(FoundBy(check.key, check.sentence(mine), rows.tobytes()))
    packed = []
    for start in range(0, len(computed), _CHUNK):
        chunk: _Chunk = {}
        for row in range(start, min(start + _CHUNK, len(computed))):
            standing = computed.standing(row)
            if standing.reasons or standing.findings:
                chunk[row] = (standing.reasons, standing.findings)
        packed.append(pickle.dumps(chunk, protocol=5))
    return Counted(
        token,
        computed.history.read,
        bytes(_MARKS.index(mark) for mark in computed.marks),
        tuple(found),
        len(computed.ready),
        computed.ready_parts,
        tuple(packed),
    )
