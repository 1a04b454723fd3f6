"""The look: the finished texts one by one, oddest first, and how far they were read."""

from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from typing_extensions import override

from gentle_ledger.app.counting.at_hand import RoundAtHand
from gentle_ledger.app.counting.jobs import Job
from gentle_ledger.app.marked_sheet import Kind
from gentle_ledger.app.seal import seal_of, seal_of_turns
from gentle_ledger.core.cells.phones import countries_of
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.pace.decide import RowState
from gentle_ledger.core.rounds.compute import Computed, Standing
from gentle_ledger.core.rounds.fingerprint import fingerprint
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.core.rounds.oddness import oddest_first
from gentle_ledger.core.rounds.plain_case import PlainCase
from gentle_ledger.core.rounds.turns import turns_of
from gentle_ledger.core.rounds.weight import Weight, weight_of
from gentle_ledger.core.sheets.export import MarkedRow, to_csv, to_xlsx

Order = Literal["odd", "row"]

SAID = 2
"""Reasons that are said of a row in the list."""


@dataclass(frozen=True, slots=True)
class LookLine:
    """One text in the list: the row (from 0), what it is called, why it is odd, and whether it was looked at."""

    row: int
    label: str
    says: tuple[str, ...]
    odd: bool
    seen: bool
    mark: PlanMark


@dataclass(frozen=True, slots=True)
class Look:
    """How far the texts of a round were read, and some of them in order.

    Attributes:
        texts: how many there are, held ones included.
        odd: how many of them are odd.
        seen, odd_seen: how many of both were looked at as they are now.
        next_odd: the first odd one (from 0) that was not; None where all were.
        lines: those that were asked for.
    """

    texts: int
    odd: int
    seen: int
    odd_seen: int
    next_odd: int | None
    lines: Sequence[LookLine]


def order_of(computed: Computed, order: Order) -> list[int]:
    """The rows (from 0) with a text of their own, those that are left out not among them."""
    rows = [
        row for row, mark in enumerate(computed.marks) if mark is not PlanMark.LEFT_OUT and computed.lead(row) == row
    ]
    if order == "row":
        return rows
    odd = oddest_first({row: computed.oddness[row] for row in rows if row in computed.odd})
    return [*odd, *(row for row in rows if row not in computed.odd)]


def print_of(computed: Computed, row: int) -> str:
    """The fingerprint of a row's number and text."""
    return fingerprint(computed.numbers[row].e164, computed.texts[row])


@dataclass(frozen=True, slots=True)
class ReadTexts(Job[Look]):
    """A stretch of the list. `seen` has the fingerprints of what was looked at, by row (from 0)."""

    seen: Mapping[int, str]
    order: Order
    offset: int
    limit: int

    @override
    def answer(self, at_hand: RoundAtHand) -> Look:
        computed, _ = at_hand.computed()
        rows = order_of(computed, self.order)
        there = set(rows)
        seen = {row for row, kept in self.seen.items() if row in there and print_of(computed, row) == kept}
        first = [row for row in order_of(computed, "odd") if row in computed.odd]
        return Look(
            len(rows),
            len(computed.odd),
            len(seen),
            len(seen & computed.odd),
            next((row for row in first if row not in seen), None),
            [_line(computed, row, row in seen) for row in rows[self.offset : self.offset + self.limit]],
        )


def _line(computed: Computed, row: int, seen: bool) -> LookLine:
    found = computed.by_row.get(row, ())
    shown = [finding.reason.sentence for finding in sorted(found, key=lambda f: not computed.levels[f.check].holds)]
    return LookLine(
        row, computed.composer.label(row), tuple(shown[:SAID]), row in computed.odd, seen, computed.marks[row]
    )


@dataclass(frozen=True, slots=True)
class LookedAt:
    """One text as it is read: the row that bears it, where it stands, its fingerprint, and how it differs."""

    row: int
    standing: Standing
    fingerprint: str
    differs: Sequence[str]


@dataclass(frozen=True, slots=True)
class LookAtText(Job[LookedAt]):
    """The text of a row (from 0)."""

    row: int

    @override
    def answer(self, at_hand: RoundAtHand) -> LookedAt:
        computed, _ = at_hand.computed()
        row = computed.lead(self.row)
        if at_hand.opened.plain_case is None or at_hand.opened.plain_case[0] is not computed:
            at_hand.opened.plain_case = (computed, PlainCase(computed))
        differs = at_hand.opened.plain_case[1].differs(row)
        return LookedAt(row, computed.standing(row), print_of(computed, row), differs)


@dataclass(frozen=True, slots=True)
class TextLine:
    """One finished text in the table of all."""

    row: int
    label: str
    number: str
    mark: PlanMark
    wording: str
    parts: int
    text: str
    says: str


def text_lines(computed: Computed, rows: Sequence[int]) -> Iterator[TextLine]:
    """The lines of some rows (from 0)."""
    for row in rows:
        found = computed.by_row.get(row, ())
        yield TextLine(
            row,
            computed.composer.label(row),
            computed.numbers[row].e164,
            computed.marks[row],
            computed.wording_name(row) or "",
            computed.measures[row].parts,
            computed.texts[row],
            "; ".join(finding.reason.sentence for finding in found),
        )


@dataclass(frozen=True, slots=True)
class ListTexts(Job[tuple[int, list[TextLine]]]):
    """How many texts have the words in them, and a stretch of these by row; "" asks for all."""

    words: str
    offset: int
    limit: int

    @override
    def answer(self, at_hand: RoundAtHand) -> tuple[int, list[TextLine]]:
        computed, _ = at_hand.computed()
        rows = order_of(computed, "row")
        needles = self.words.casefold().split()
        if needles:
            rows = [row for row in rows if _holds(computed, row, needles)]
        return len(rows), list(text_lines(computed, rows[self.offset : self.offset + self.limit]))


def _holds(computed: Computed, row: int, needles: Sequence[str]) -> bool:
    name, number = computed.composer.label(row), computed.numbers[row].e164
    hay = f"{name} {number} {computed.texts[row]}".casefold()
    return all(needle in hay for needle in needles)


@dataclass(frozen=True, slots=True)
class WriteTexts(Job[bytes]):
    """All finished texts as a file, for somebody else to check."""

    kind: Kind

    @override
    def answer(self, at_hand: RoundAtHand) -> bytes:
        computed, _ = at_hand.computed()
        lines = text_lines(computed, order_of(computed, "row"))
        rows = (
            MarkedRow(
                (Decimal(number_of_row(line.row)), line.label, line.number, line.wording),
                line.mark,
                None,
                line.says,
                "",
                line.parts if line.text else None,
                line.text,
            )
            for line in lines
        )
        return (to_csv if self.kind == "csv" else to_xlsx)(("Row", "Name", "Number", "Wording"), rows)


@dataclass(frozen=True, slots=True)
class WeighTexts(Job[Weight]):
    """How many parts the texts take, and which characters make them take more."""

    @override
    def answer(self, at_hand: RoundAtHand) -> Weight:
        return weight_of(at_hand.computed()[0])


@dataclass(frozen=True, slots=True)
class BeforeSending:
    """What is to be known of a round before it is sent; all but `waiting` are of the texts that would go.

    Attributes:
        seal: see `seal_of`.
        whole_seal: that of all that is ready, chosen or not.
        turns: see `seal_of_turns`.
        texts: how many texts would go.
        parts: in how many parts, by country (ISO 3166-1).
        numbers: how many different numbers they go to.
        countries, wordings: how many go to numbers of each country, and read each wording, the most first.
        odd, unseen_odd: how many are odd, and how many of these nobody has looked at as they are.
        unseen: how many of all of them nobody has looked at.
        changed: how many of those were looked at, and are others by now.
        held, left_out: how many of the rows that were asked for are not sent.
        waiting: how many further texts are ready, and were not chosen.
        worth_reading: the rows (from 0) whose slips are shown, each with why.
    """

    seal: str
    whole_seal: str
    turns: str
    texts: int
    parts: Mapping[str, int]
    numbers: int
    countries: Sequence[tuple[str, int]]
    wordings: Sequence[tuple[str | None, int]]
    odd: int
    unseen_odd: int
    unseen: int
    changed: int
    held: int
    left_out: int
    waiting: int
    worth_reading: Sequence[tuple[str, int]]


@dataclass(frozen=True, slots=True)
class LookBeforeSending(Job[BeforeSending]):
    """Seals what would be sent now.

    Attributes:
        seen: the fingerprints of what was looked at, by row (from 0).
        chosen: the rows (from 0) that are to be sent, any row of a text standing for it; None for all.
        office: the zone (IANA) where the office is.
    """

    seen: Mapping[int, str]
    chosen: Collection[int] | None = None
    office: str = "UTC"

    @override
    def answer(self, at_hand: RoundAtHand) -> BeforeSending:
        computed, _ = at_hand.computed()
        asked, ready = _asked_for(computed, self.chosen)
        unseen = {row for row in ready if self.seen.get(row) != print_of(computed, row)} if self.seen else set(ready)
        odd = {row for row in ready if row in computed.odd}
        marks = Counter(computed.marks[row] for row in asked)
        seal = seal_of(computed, ready)
        return BeforeSending(
            seal,
            seal if self.chosen is None else seal_of(computed, computed.ready),
            self._turns(computed, at_hand, ready),
            len(ready),
            computed.parts_to(ready),
            len({computed.numbers[row].e164 for row in ready}),
            Counter(countries_of(computed.numbers[row].e164 for row in ready)).most_common(),
            Counter(computed.wording_name(row) for row in ready).most_common(),
            len(odd),
            len(odd & unseen),
            len(unseen),
            len(unseen & set(self.seen)),
            marks[PlanMark.HELD],
            marks[PlanMark.LEFT_OUT],
            len(computed.ready) - len(ready),
            computed.worth_reading(ready),
        )

    def _turns(self, computed: Computed, at_hand: RoundAtHand, ready: Sequence[int]) -> str:
        turns = enumerate(turns_of(computed, at_hand.opened.recipe, self.office))
        places = {turn.row: (place, turn.state) for place, turn in turns}
        behind = (len(computed), RowState())
        return seal_of_turns((*places.get(row, behind)[:1], row, places.get(row, behind)[1]) for row in ready)


def _asked_for(computed: Computed, chosen: Collection[int] | None) -> tuple[Collection[int], list[int]]:
    """The rows that are asked for, each of a round that has so many, and those of them whose own texts may be sent."""
    if chosen is None:
        return range(len(computed)), computed.ready
    there = [row for row in chosen if row < len(computed)]
    bearing = {computed.lead(row) for row in there}
    return there, [row for row in computed.ready if row in bearing]


@dataclass(frozen=True, slots=True)
class SealWhole(Job[str]):
    """The seal of all that is ready."""

    @override
    def answer(self, at_hand: RoundAtHand) -> str:
        computed, _ = at_hand.computed()
        return seal_of(computed, computed.ready)


@dataclass(frozen=True, slots=True)
class SumChosen(Job[tuple[int, Mapping[str, int]]]):
    """How many texts of some rows (from 0) may be sent, and in how many parts to each country (ISO 3166-1)."""

    chosen: Collection[int]

    @override
    def answer(self, at_hand: RoundAtHand) -> tuple[int, Mapping[str, int]]:
        computed, _ = at_hand.computed()
        _, ready = _asked_for(computed, self.chosen)
        return len(ready), computed.parts_to(ready)


@dataclass(frozen=True, slots=True)
class TrialText:
    """A row's text, as somebody would have it sent to a number of their own.

    Attributes:
        row: the one (from 0) that bears it.
        text, parts: the text, and how many parts it is carried in.
        fingerprint: that of the row's own number and the text.
        whose: the row (from 0) of this round that the other number stands in, and what it is called; None for none.
    """

    row: int
    text: str
    parts: int
    fingerprint: str
    whose: tuple[int, str] | None


@dataclass(frozen=True, slots=True)
class ReadForTrial(Job[TrialText]):
    """The text of a row (from 0), and whether `number` (E.164) is that of any row of the round."""

    row: int
    number: str

    @override
    def answer(self, at_hand: RoundAtHand) -> TrialText:
        computed, _ = at_hand.computed()
        row = computed.lead(self.row)
        theirs = next((at for at, number in enumerate(computed.numbers) if number.e164 == self.number), None)
        whose = None if theirs is None else (theirs, computed.composer.label(theirs))
        return TrialText(row, computed.texts[row], computed.measures[row].parts, print_of(computed, row), whose)
