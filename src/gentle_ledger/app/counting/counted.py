"""What a count of all rows gives back: marks, findings and sums, packed so that taking them in delays nobody.

The reasons of each row stay with the process that counted; it is asked for those of the rows that are looked at.
"""

from array import array
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from gentle_ledger.core.checks import check_of
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.core.wording.composer import Undecided
from gentle_ledger.store.history import Read

_MARKS = tuple(PlanMark)

NO_WORDING = 255
"""Stands for the wording of a row of which it cannot be said; a round has far fewer wordings."""

Token = tuple[int, int]
"""Stands for one count: the process that made it, and which of its counts it was."""


@dataclass(frozen=True, slots=True)
class FoundBy:
    """What one check found in all rows.

    Attributes:
        check: its key.
        sentence: what it says of them together.
        rows: those it found, from 0, each once, in order.
        column: the column that it is about in the first of them, if it is about one.
        holds: whether it holds them.
    """

    check: str
    sentence: str
    rows: Sequence[int]
    column: str | None
    holds: bool


@dataclass(frozen=True, slots=True)
class Counted:
    """All rows of a round at one version, counted.

    Attributes:
        token: stands for this count.
        read: up to where the record of other rounds was read.
        marks: one byte a row, the place of its mark among the marks there are.
        wordings: one byte a row, the place of its wording among those of the round; `NO_WORDING` where none is.
        found: what the checks found, in their order.
        texts: how many texts may be sent.
        parts: how many parts they are carried in, by country (ISO 3166-1).
        countries: those of numbers that are in question: each with how many rows there are, and the first of them.
    """

    token: Token
    read: Read | None
    marks: bytes
    wordings: bytes
    found: tuple[FoundBy, ...]
    texts: int
    parts: dict[str, int]
    countries: tuple[tuple[str, int, int], ...]

    def count(self, mark: PlanMark) -> int:
        """How many rows have the mark."""
        return self.marks.count(_MARKS.index(mark))

    def rows_with(self, mark: str) -> Iterable[int]:
        """The rows (from 0) that have the mark, in order; none for one that a round gets only once it is started."""
        return (row for row, place in enumerate(self.marks) if _MARKS[place] == mark)

    def rows_reading(self, wording: int) -> list[int]:
        """The rows (from 0) that read the wording at that place, in order, without those that are left out."""
        out = _MARKS.index(PlanMark.LEFT_OUT)
        pairs = zip(self.wordings, self.marks, strict=True)
        return [row for row, (place, mark) in enumerate(pairs) if place == wording and mark != out]

    def rows_found(self, check: str) -> Sequence[int]:
        """The rows (from 0) in which the check of that key found something, in order."""
        return next((found.rows for found in self.found if found.check == check), ())


@dataclass(frozen=True, slots=True)
class StillSo:
    """The answer when a known count still holds: the record was read up to `read`, and nothing in it concerns it."""

    read: Read | None


def counted_of(computed: Computed, token: Token) -> Counted:
    """Packs what was computed."""
    found = []
    for key, mine in computed.by_check.items():
        rows = array("I", sorted({finding.row for finding in mine}))
        first = min(mine, key=lambda finding: finding.row)
        found.append(FoundBy(key, check_of(key).sentence(mine), rows, first.column, computed.levels[key].holds))
    return Counted(
        token,
        computed.history.read,
        bytes(_MARKS.index(mark) for mark in computed.marks),
        bytes(NO_WORDING if isinstance(choice, Undecided) else choice for choice in computed.choices()),
        tuple(found),
        len(computed.ready),
        computed.parts_to(computed.ready),
        _countries(computed),
    )


def _countries(computed: Computed) -> tuple[tuple[str, int, int], ...]:
    found: dict[str, list[int]] = {}
    for finding in computed.by_check.get("which country", ()):
        found.setdefault(finding.about("region"), []).append(finding.row)
    return tuple((region, len(rows), min(rows)) for region, rows in found.items())
