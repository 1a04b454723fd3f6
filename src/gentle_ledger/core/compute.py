"""From a sheet and a recipe to texts, marks and findings: the one door to the core."""

from collections.abc import Collection, Iterator, Mapping, Sequence
from decimal import Decimal
from enum import StrEnum
from functools import cached_property
from typing import TypeVar

from gentle_ledger.core.cell_format import Way, money_rounded
from gentle_ledger.core.checks import Finding, check_of, run_checks
from gentle_ledger.core.checks.model import Gap
from gentle_ledger.core.composer import Composer
from gentle_ledger.core.formulas.values import Wrong, as_text, number_in
from gentle_ledger.core.history import Recall, code_of, nothing_before
from gentle_ledger.core.numbers import Number, country_code
from gentle_ledger.core.reading import Value
from gentle_ledger.core.recipe import Recipe
from gentle_ledger.core.rows import ByRow, GiveWay, giving_way, stay
from gentle_ledger.core.sent_before import sent_before
from gentle_ledger.core.sheets.model import Sheet, as_written
from gentle_ledger.core.sms.parts import Measure, measure
from gentle_ledger.core.values import Role, Unreadable
from gentle_ledger.core.workings import Workings

T = TypeVar("T")


class PlanMark(StrEnum):
    """Where a row stands before sending starts."""

    READY = "Ready"
    HELD = "Held"
    LEFT_OUT = "Left out"


class Computed:
    """A whole round computed: one entry a row in each sequence, rows counted from 0."""

    def __init__(
        self,
        composer: Composer,
        left_out: Collection[int] = frozenset(),
        released: Collection[int] = frozenset(),
        give_way: GiveWay = stay,
        recall: Recall = nothing_before,
    ) -> None:
        rows = range(len(composer.workings.sheet.rows))
        self.composer = composer
        self.mobile_column = None if composer.mobile is None else composer.columns.names[composer.mobile]
        self.wording_problem = composer.problems[0].message.rstrip(".") if composer.problems else None
        self.undecided: dict[int, str] = {}
        self._ruled_out: dict[int, str] = {}
        self._ask_rules(rows, give_way)
        self.said_sent: dict[int, tuple[str, str]] = {}
        self._heed_sent_marks()
        self.give_way = give_way
        self.asked = self._asked()
        groups = composer.columns.groups
        follow = {row for members in groups.members for row in members[1:]}
        self.numbers = self._numbers(rows)
        self.texts = [""] * len(rows) if composer.problems else composer.texts(give_way)
        for row in follow:
            self.texts[row] = ""
        self.gaps: list[tuple[Gap, ...]] = []
        self.measures: list[Measure] = []
        for row in giving_way(rows, give_way):
            text = self.texts[row]
            self.gaps.append(() if text or row in follow else composer.gaps(row))
            self.measures.append(measure(text))
        self.by_hand = left_out
        self.history = recall({number.e164 for number in self.numbers if number.e164})
        out = {*left_out, *self._ruled_out}
        self.findings = run_checks(self, len(rows), out | follow, released, give_way)
        self.by_row: dict[int, list[Finding]] = {}
        for finding in self.findings:
            self.by_row.setdefault(finding.row, []).append(finding)
        # A row that follows another one stands where that one does.
        out |= {row for row in follow if groups.lead(row) in out}
        held = {finding.row for finding in self.findings if check_of(finding.check).holds}
        self.marks = [self._mark(row, out, held) for row in rows]

    def __len__(self) -> int:
        return len(self.texts)

    def _ask_rules(self, rows: Sequence[int], give_way: GiveWay) -> None:
        """Which rows the round's rules leave out and why, and which of them cannot be decided."""
        rules = self.composer.columns.rules
        groups = self.composer.columns.groups
        for row in giving_way(rows if rules else (), give_way):
            place = groups.place(row)
            for rule in rules:
                try:
                    applies = rule.leaves_out(place)
                except Wrong as fault:
                    self.undecided.setdefault(row, f'"{rule.reason}" cannot be decided: {fault.why}')
                    continue
                if applies:
                    self._ruled_out.setdefault(row, rule.reason)

    def _mark(self, row: int, out: Collection[int], held: Collection[int]) -> PlanMark:
        if row in out:
            return PlanMark.LEFT_OUT
        return PlanMark.HELD if self.lead(row) in held else PlanMark.READY

    def _numbers(self, rows: Sequence[int]) -> list[Number]:
        composer = self.composer
        if composer.mobile is None:
            return [composer.number(row) for row in rows]
        return composer.columns.numbers(composer.mobile, self.give_way)

    def _by_row(self, entries: ByRow[T]) -> Sequence[T]:
        """A column's entries, one a row: the group's for the rows of a group."""
        groups = self.composer.columns.groups
        whole = entries.whole(self.give_way)
        return [whole[groups.place(row)] for row in range(groups.rows)] if groups.members else whole

    def amounts(self) -> Iterator[tuple[str, list[Decimal | None]]]:
        composer = self.composer
        for position in composer.used:
            if composer.roles[position] is Role.MONEY:
                column = composer.column(position)
                read = self._by_row(column.values)
                yield column.name, [value if isinstance(value, Decimal) else None for value in read]

    def links(self) -> Iterator[tuple[str, list[str | None]]]:
        composer = self.composer
        for position in composer.used:
            if composer.roles[position] is Role.LINK:
                read = self._by_row(composer.column(position).shown)
                yield composer.columns.names[position], [link if isinstance(link, str) else None for link in read]

    def counted_blanks(self) -> Iterator[tuple[str, str, bool, list[int]]]:
        """The computed columns the wording uses, each with a column it reads and the rows where that one is blank."""
        columns = self.composer.columns
        told: set[int] = set()
        for position in self.composer.used:
            column = columns.column(position)
            for read in sorted(column.reads - told) if position >= columns.first_computed else ():
                told.add(read)
                values = columns.column(read).values.whole(self.give_way)
                blank = [row for row in range(len(self)) if values[row] is None]
                yield column.name, columns.names[read], columns.roles[read].counts, blank

    def _heed_sent_marks(self) -> None:
        """What the sheet does not show, and what its columns say was sent, leaves rows out, or holds their texts."""
        composer, groups = self.composer, self.composer.columns.groups
        for row in composer.workings.sheet.hidden if composer.recipe.leave_out_hidden else ():
            self._ruled_out.setdefault(row, "hidden in the workbook")
        for row, marks, out in sent_before(composer.recipe, composer.workings.sent_marks(), groups):
            if out:
                self._ruled_out.setdefault(row, f"{marks.column} says that it was sent")
            else:
                cell = composer.workings.sheet.rows[row][composer.columns.position(marks.column) or 0]
                self.said_sent.setdefault(groups.lead(row), (marks.column, as_written(cell)))

    def _asked(self) -> dict[int, tuple[str, str]]:
        """The rows that wait for an answer to how a column is read: that column, and why."""
        columns, found = self.composer.columns, dict[int, tuple[str, str]]()
        for position in columns.asked:
            values = columns.column(position).values.whole(self.give_way)
            for row in range(columns.groups.rows):
                if isinstance(value := values[row], Unreadable) and value.asks:
                    found.setdefault(columns.groups.lead(row), (columns.names[position], value.why))
        return found

    @property
    def doubled(self) -> Sequence[str]:
        return self.composer.columns.doubled

    @property
    def combine_problem(self) -> str | None:
        problem = self.composer.columns.combine_problem
        return problem.what.rstrip(".") if problem else None

    @property
    def bracketed(self) -> Sequence[str]:
        columns = self.composer.columns
        return [name for name in self.composer.wording.bracketed if columns.position(name) is not None]

    def compared_texts(self) -> Iterator[tuple[str, str, Sequence[int]]]:
        columns = self.composer.columns
        for asks, position in columns.asked_to_equal_numbers:
            values = columns.column(position).values.whole(self.give_way)
            rows = [
                row
                for row in range(columns.groups.rows)
                if isinstance(value := values[row], str) and number_in(value) is not None
            ]
            yield asks, columns.names[position], rows

    def shortened(self) -> Iterator[tuple[str, Mapping[int, str]]]:
        composer = self.composer
        for position in composer.used:
            column = composer.column(position)
            if column.format and column.format.way is Way.MONEY:
                currency = column.format.detail or composer.recipe.currency
                read = self._by_row(column.values)

                def longer(read: Sequence[Value] = read, currency: str = currency) -> dict[int, str]:
                    return {
                        row: as_text(value)
                        for row, value in enumerate(read)
                        if isinstance(value, Decimal) and value != money_rounded(value, currency)
                    }

                yield (
                    column.name,
                    composer.workings.kept(("shortened", column.key, currency, composer.columns.groups.key), longer),
                )

    def home_code(self, row: int) -> str:
        columns = self.composer.columns
        return self._home if columns.country is None else f"+{country_code(columns.region(row))}"

    @cached_property
    def _home(self) -> str:
        return f"+{country_code(self.composer.recipe.region)}"

    def codes(self, row: int) -> list[str]:
        """The references of a row as they are compared, those of its columns with that role; each once."""
        cells = self.composer.workings.sheet.rows[row]
        places = (i for i, role in enumerate(self.composer.roles[: len(cells)]) if role is Role.REFERENCE)
        return list(dict.fromkeys(code for i in places if (code := code_of(cells[i]))))

    def culprit(self, row: int, position: int) -> str | None:
        return self.composer.column_at(row, position)

    def reason(self, row: int) -> str:
        """Why a row is held or left out, in plain words; "" for a row that is ready."""
        if self.marks[row] is PlanMark.LEFT_OUT:
            return "left out by hand" if row in self.by_hand else self._ruled_out[row]
        lead = self.lead(row)
        holding = [f.reason for f in self.by_row.get(lead, ()) if check_of(f.check).holds]
        if lead != row and not holding:
            return f"goes in the text of row {lead + 1}"
        return "; ".join(holding)

    def lead(self, row: int) -> int:
        """The row that bears this row's text: itself, unless it is combined with earlier ones."""
        return self.composer.columns.groups.lead(row)

    @cached_property
    def ready(self) -> list[int]:
        """The rows whose texts may be sent: one for each text, not the rows that only go along."""
        return [row for row, mark in enumerate(self.marks) if mark is PlanMark.READY and self.lead(row) == row]

    @cached_property
    def ready_parts(self) -> int:
        """How many parts the ready texts are carried in altogether."""
        return sum(self.measures[row].parts for row in self.ready)


def compute_round(
    sheet: Sheet,
    recipe: Recipe,
    *,
    left_out: Collection[int] = frozenset(),
    released: Collection[int] = frozenset(),
    workings: Workings | None = None,
    give_way: GiveWay = stay,
) -> Computed:
    """Computes every row of a round.

    Args:
        sheet: the rows.
        recipe: the set-up.
        left_out: rows (from 0) that the clerk keeps out.
        released: rows (from 0) that the clerk sends although a releasable check holds them.
        workings: what was already read of this same sheet.
        give_way: called every few rows; what it raises ends the work and is passed on.
    """
    return Computed(Composer(workings or Workings(sheet), recipe, left_out), left_out, released, give_way)
