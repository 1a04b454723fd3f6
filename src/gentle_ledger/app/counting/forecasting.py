"""A round run ahead in the counting process, as far as others need to know of it."""

from array import array
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import isnan

from typing_extensions import override

from gentle_ledger.app.counting.at_hand import RoundAtHand
from gentle_ledger.app.counting.jobs import Job
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.pace.decide import LineState, Now, Why
from gentle_ledger.core.pace.forecast import Planned, RoundAhead
from gentle_ledger.core.rounds.ahead import run_ahead

_WHYS = tuple(Why)
_NOTHING = len(_WHYS)


@dataclass(frozen=True)
class RunAhead:
    """A round run ahead, row by row.

    Attributes:
        rows, at, why: the rows (from 1) of its texts in the order in which they leave, when each does (POSIX seconds,
            or nan) and the place of what keeps it from leaving sooner among all of these.
        missed: the rows that are left out because their own moment is too long over.
        held_up_by: what holds the round up most, as part of a sentence; "" for nothing.
        doubts: what of the pace cannot be kept, a sentence each.
    """

    rows: Sequence[int]
    at: Sequence[float]
    why: bytes
    missed: frozenset[int]
    held_up_by: str
    doubts: Sequence[str]

    @property
    def leaving(self) -> list[float]:
        """When the texts leave, those that do, in POSIX seconds."""
        return [at for at in self.at if not isnan(at)]

    def planned(self, row: RowNumber) -> Planned | None:
        """When the text of a row leaves; None where it has none that is to go."""
        if row not in self._places:
            return None
        place = self._places[row]
        at, why = self.at[place], self.why[place]
        return Planned(None if isnan(at) else at, None if why == _NOTHING else _WHYS[why], row in self.missed)

    @cached_property
    def _places(self) -> dict[int, int]:
        return {row: place for place, row in enumerate(self.rows)}


def packed(rows: Sequence[int], planned: Sequence[Planned], held_up_by: str, doubts: Sequence[str]) -> RunAhead:
    """A forecast of some rows (from 1), in the order in which they leave, as it is sent between processes."""
    return RunAhead(
        array("I", rows),
        array("d", (float("nan") if each.at is None else each.at for each in planned)),
        bytes(_NOTHING if each.why is None else _WHYS.index(each.why) for each in planned),
        frozenset(row for row, each in zip(rows, planned, strict=True) if each.missed),
        held_up_by,
        tuple(doubts),
    )


@dataclass(frozen=True, slots=True)
class LookAhead(Job[RunAhead]):
    """When each ready text would leave if Send were pressed now.

    Attributes:
        office: the zone (IANA) of the office.
        line: the line as it stands.
        beside: the rounds that are sending by it.
        at: now.
        chosen: the rows (from 0) that are to be sent, any row of a text standing for it; None for all.
    """

    office: str
    line: LineState
    beside: Sequence[RoundAhead]
    at: Now
    chosen: Collection[int] | None = None

    @override
    def answer(self, at_hand: RoundAtHand) -> RunAhead:
        computed, _ = at_hand.computed()
        rows = None if self.chosen is None else {computed.lead(row) for row in self.chosen if row < len(computed)}
        ahead = run_ahead(computed, self.office, self.at, self.line, self.beside, rows, at_hand.opened.recipe)
        numbers = [number_of_row(turn.row) for turn in ahead.turns]
        return packed(numbers, ahead.forecast.planned, ahead.held_up_by, ahead.doubts)
