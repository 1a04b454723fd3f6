"""What went, or is to go, to the numbers of a round in other rounds: what the checks for repeats look at."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from datetime import date, datetime

from gentle_ledger.core.cells.cell import Cell, as_written, column_key, is_blank


@dataclass(frozen=True, slots=True)
class Before:
    """A text of another round. `went` is False while it is still to go; `at` is when it got its mark."""

    at: datetime
    title: str
    row: int
    went: bool

    @property
    def said(self) -> str:
        """Part of a sentence: where and when."""
        when = f"went on {self.at:%Y-%m-%d}" if self.went else "is to go"
        return f'{when} in row {self.row} of "{self.title}"'


@dataclass(frozen=True, slots=True)
class Asked:
    """Somebody asked for no more texts to a number: on which day, and how ("by phone")."""

    on: date
    how: str


@dataclass(frozen=True, slots=True)
class History:
    """What is known of a round's numbers.

    Attributes:
        texts: by number and text, what went with just these words.
        codes: by number and reference (see `code_of`), what went about the same thing.
        lately: by number, the last text that went or is to go there within the days that are set for that.
        reminded: by number and reference, how many texts about it went within a year.
        asked: by number, who asked for no more texts, and how; see `Asked`.
        read: up to which text, which step of one and which change of the list of those who asked for no more texts
            this was read; None for what was not read from a record.
        names: by number, as whom it was texted within a year.
        on_record: what a cell of the sheet witnesses, whenever it went: by number and text, and by "" and reference.
    """

    texts: Mapping[tuple[str, str], Before] = field(default_factory=dict)
    codes: Mapping[tuple[str, str], Before] = field(default_factory=dict)
    lately: Mapping[str, Before] = field(default_factory=dict)
    reminded: Mapping[tuple[str, str], int] = field(default_factory=dict)
    asked: Mapping[str, Asked] = field(default_factory=dict)
    read: tuple[int, int, int] | None = None
    names: Mapping[str, Collection[str]] = field(default_factory=dict)
    on_record: Mapping[tuple[str, str], Before] = field(default_factory=dict)


Recall = Callable[[Collection[str], Collection[str]], History]
"""Gives the history of some numbers, and of the cells that may be texts that went, or references of ours."""


def nothing_before(_numbers: Collection[str], _witnesses: Collection[str]) -> History:
    """A history in which nothing was ever sent."""
    return History()


def code_of(cell: Cell) -> str:
    """A reference as it is compared: in any case, without the blanks around it; "" for none."""
    return "" if is_blank(cell) else column_key(as_written(cell))
