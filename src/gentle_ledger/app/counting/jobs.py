"""What the counting process can be asked: each job is a value that is sent to it, and answers with a round at hand."""

from abc import ABC, abstractmethod
from array import array
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from typing_extensions import override

from gentle_ledger.app.commands.columns import Formula
from gentle_ledger.app.counting.at_hand import RoundAtHand
from gentle_ledger.app.counting.counted import Counted, StillSo, Token, counted_of
from gentle_ledger.app.marked_sheet import Kind, planned_sheet, sent_sheet
from gentle_ledger.app.numbers import batches_in
from gentle_ledger.app.trying import ConditionTried, TriedOnAll, try_condition, try_on_all_rows
from gentle_ledger.core.columns.combining import Groups
from gentle_ledger.core.columns.tidy import Batch
from gentle_ledger.core.rounds.compute import Standing
from gentle_ledger.core.rounds.frozen import FrozenRow, frozen_rows
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.history import Read

T = TypeVar("T")


class Job(ABC, Generic[T]):
    """One question about all rows of a round."""

    @abstractmethod
    def answer(self, at_hand: RoundAtHand) -> T:
        """The answer; it must be fit to be sent back."""


@dataclass(frozen=True, slots=True)
class CountRows(Job[Counted | StillSo]):
    """Marks, findings and sums of all rows. `known` is the count that the asking process has already."""

    known: Token | None

    @override
    def answer(self, at_hand: RoundAtHand) -> Counted | StillSo:
        computed, token = at_hand.computed()
        return StillSo(computed.history.read) if token == self.known else counted_of(computed, token)


@dataclass(frozen=True, slots=True)
class LookAtRows(Job[list[Standing]]):
    """Where some rows (from 0) stand, and why."""

    rows: Sequence[int]

    @override
    def answer(self, at_hand: RoundAtHand) -> list[Standing]:
        computed, _ = at_hand.computed()
        return [computed.standing(row) for row in self.rows]


@dataclass(frozen=True, slots=True)
class Frozen:
    """All rows as they would be written down.

    Attributes:
        version: that of the round they were computed from.
        read: up to where the record of other rounds was read.
        rows: in order.
    """

    version: int
    read: Read | None
    rows: Sequence[FrozenRow]


@dataclass(frozen=True, slots=True)
class FreezeRows(Job[Frozen]):
    """Every row's number, text and mark, to be written down when sending starts; `office` is its zone (IANA)."""

    office: str

    @override
    def answer(self, at_hand: RoundAtHand) -> Frozen:
        computed, _ = at_hand.computed()
        rows = list(frozen_rows(computed, self.office, at_hand.opened.recipe))
        return Frozen(at_hand.opened.version, computed.history.read, rows)


@dataclass(frozen=True, slots=True)
class ReadAnew(Job[list[FrozenRow]]):
    """Rows of a started round as they are after something was mended; `office` is its zone (IANA)."""

    office: str

    @override
    def answer(self, at_hand: RoundAtHand) -> list[FrozenRow]:
        anew, stay = at_hand.anew()
        return [row for row in frozen_rows(anew, self.office) if row.row not in stay]


@dataclass(frozen=True, slots=True)
class LookAnew(Job[Standing]):
    """Where one row (from 0) of them stands, and why; see `ReadAnew`."""

    row: int

    @override
    def answer(self, at_hand: RoundAtHand) -> Standing:
        return at_hand.anew()[0].standing(self.row)


@dataclass(frozen=True, slots=True)
class FindWords(Job[Sequence[int]]):
    """The rows (from 0) that hold every one of the words, in any of their cells."""

    words: str

    @override
    def answer(self, at_hand: RoundAtHand) -> Sequence[int]:
        needles = self.words.casefold().split()
        rows = enumerate(at_hand.haystacks())
        return array("I", (row for row, hay in rows if all(needle in hay for needle in needles)))


@dataclass(frozen=True, slots=True)
class GroupRows(Job[Groups]):
    """Which rows go together in one text."""

    @override
    def answer(self, at_hand: RoundAtHand) -> Groups:
        return at_hand.opened.composer.groups


@dataclass(frozen=True, slots=True)
class SortNumbers(Job[list[Batch]]):
    """The batches that the phone numbers fall into."""

    @override
    def answer(self, at_hand: RoundAtHand) -> list[Batch]:
        return batches_in(at_hand.opened)


@dataclass(frozen=True, slots=True)
class TryOnAllRows(Job[TriedOnAll]):
    """What a formula that is being written comes to in all rows; it is kept for when the formula is put in."""

    written: Formula

    @override
    def answer(self, at_hand: RoundAtHand) -> TriedOnAll:
        return try_on_all_rows(at_hand.opened, self.written)


@dataclass(frozen=True, slots=True)
class TryCondition(Job[ConditionTried]):
    """In how many rows a condition that is being written is true."""

    when: str

    @override
    def answer(self, at_hand: RoundAtHand) -> ConditionTried:
        return try_condition(at_hand.opened, self.when)


@dataclass(frozen=True, slots=True)
class WriteMarkedSheet(Job[bytes]):
    """The marked sheet as a file."""

    kind: Kind
    stage: Stage

    @override
    def answer(self, at_hand: RoundAtHand) -> bytes:
        opened = at_hand.opened
        if self.stage is Stage.PREPARING:
            return planned_sheet(self.kind, at_hand.computed()[0])
        with at_hand.database.reading() as session:
            return sent_sheet(self.kind, session, opened.round_id, opened.composer)
