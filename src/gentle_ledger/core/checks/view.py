"""A computed round as the checks see it: its typed columns, one entry a row in each."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import TypeVar

from gentle_ledger.core.cells.phones import Number
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.checks.history import History
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.sms.parts import MOST_PARTS, Measure
from gentle_ledger.core.wording.bound import BoundWording, Gap
from gentle_ledger.core.wording.composer import Composer, Undecided

T = TypeVar("T")


@dataclass(frozen=True)
class RoundView:
    """All that checks may look at.

    Attributes:
        composer: the round's columns, their cells and its wording.
        numbers, texts, measures, gaps: one entry a row, counted from 0.
        wordings: each row's own; None where it cannot be said.
        history: what went to the round's numbers in other rounds.
        undecided_rules: the rows for which a rule that leaves rows out cannot be decided: the rule, and why.
        today: the round's own date, or the day on which it is looked at; None where neither is known.
        most_parts: how many parts of a text the line takes.
        witnesses: by row, its cells that can witness that a text went.
        said_sent: the rows of which a column seems to say that they were sent: that column, and what it says.
    """

    composer: Composer
    numbers: Sequence[Number]
    texts: Sequence[str]
    measures: Sequence[Measure]
    gaps: Sequence[Sequence[Gap]]
    wordings: Sequence[BoundWording | None]
    history: History
    undecided_rules: Mapping[int, tuple[str, str]]
    said_sent: Mapping[int, tuple[str, str]]
    witnesses: Mapping[int, Sequence[tuple[str, str]]]
    today: date | None = None
    most_parts: int = MOST_PARTS
    _sorted: list[tuple[Sequence[int], list[tuple[BoundWording, list[int]]]]] = field(default_factory=list)

    @property
    def mobile_column(self) -> str | None:
        """The column that the numbers are from; None where there is none."""
        composer = self.composer
        return None if composer.mobile is None else composer.columns.names[composer.mobile]

    def lead(self, row: int) -> int:
        """The row that bears this row's text: itself, unless it is combined with earlier ones."""
        return self.composer.groups.lead(row)

    def by_row(self, entries: ByRow[T]) -> Sequence[T]:
        """A column's entries, one a row: the group's for the rows of a group."""
        groups, whole = self.composer.groups, entries.whole()
        return [whole[groups.place(row)] for row in range(groups.rows)] if groups.members else whole

    def used(self, role: Role) -> Iterator[int]:
        """The columns of a role that the wordings use, by position."""
        return (position for position in self.composer.used if self.composer.roles[position] is role)

    def amounts(self) -> Iterator[tuple[str, Sequence[Decimal | None]]]:
        """The money columns that the wordings use, with the amount of each row whose own wording does."""
        for position in self.used(Role.MONEY):
            column = self.composer.column(position)
            read = self._where_used(position, self.by_row(column.values))
            yield column.name, [value if isinstance(value, Decimal) else None for value in read]

    def figures(self) -> Iterator[tuple[str, Role, Sequence[Decimal | None]]]:
        """The columns of amounts and numbers that the wordings use, with the figure of each row whose wording does."""
        for role in (Role.MONEY, Role.NUMBER):
            for position in self.used(role):
                column = self.composer.column(position)
                read = self._where_used(position, self.by_row(column.values))
                yield column.name, role, [value if isinstance(value, Decimal) else None for value in read]

    def days(self) -> Iterator[tuple[int, Sequence[date | None]]]:
        """The date columns that the wordings use, by position, with the day of each row whose own wording does."""
        for position in self.used(Role.DATE):
            read = self._where_used(position, self.by_row(self.composer.column(position).values))
            yield position, [value if isinstance(value, date) else None for value in read]

    def by_wording(self, rows: Sequence[int]) -> Iterator[tuple[BoundWording, list[int]]]:
        """The rows under the wording that each of them reads; those of which that cannot be said under none."""
        if not self.composer.conditions:
            yield self.composer.plain, list(rows)
            return
        # Many checks ask about the same rows, one after the other.
        if self._sorted and self._sorted[0][0] is rows:
            yield from self._sorted[0][1]
            return
        reading: dict[int, list[int]] = {id(wording): [] for wording in self.composer.wordings}
        for row in rows:
            if (wording := self.wordings[row]) is not None:
                reading[id(wording)].append(row)
        found = [(wording, mine) for wording in self.composer.wordings if (mine := reading[id(wording)])]
        self._sorted[:] = [(rows, found)]
        yield from found

    def links(self) -> Iterator[tuple[str, Sequence[str | None], Mapping[int, Sequence[str]]]]:
        """The link columns that the wordings use, with the link of each row whose own wording does.

        The last are the rows that are combined and have several, one after another.
        """
        composer = self.composer
        for position in self.used(Role.LINK):
            column = composer.column(position)
            read = self._where_used(position, self.by_row(column.shown))
            found = [link if isinstance(link, str) else None for link in read]
            several: dict[int, Sequence[str]] = {}
            for rows in composer.groups.members if position in column.lists else ():
                if found[rows[0]]:
                    several[rows[0]] = composer.evaluation.items(position, rows)
            yield column.name, found, several

    def _where_used(self, position: int, read: Sequence[T]) -> Sequence[T | None]:
        """A column's entries, None for the rows whose own wording does without that column."""
        using = [position in wording.used for wording in self.composer.wordings]
        if all(using):
            return read
        users = {id(each) for each, uses in zip(self.composer.wordings, using, strict=True) if uses}
        return [entry if id(own) in users else None for entry, own in zip(read, self.wordings, strict=True)]

    def undecided(self, row: int) -> Undecided | None:
        """Why it cannot be said which wording is the row's."""
        choice = self.composer.choice(row)
        return choice if isinstance(choice, Undecided) else None
