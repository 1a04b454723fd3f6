"""What an entry of the function registry is, and how a function becomes one."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, tzinfo
from enum import StrEnum
from typing import Any, TypeVar

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.formulas.values import (
    as_any,
    as_counted,
    as_day,
    as_needed,
    as_number,
    as_ordered,
    as_text,
    as_truth,
)

T = TypeVar("T")

Evaluate = Callable[[int], Cell]
"""The value of a piece of formula in a row (from 0); raises Wrong when it has none there."""


@dataclass(frozen=True, slots=True)
class FormulaContext:
    """What a formula may know besides its row.

    Attributes:
        today: the round's own date; None when it has none.
        locale: BCP 47, for what is written in words.
        currency: ISO 4217, for amounts typed with their sign.
        office: the zone of the office, by whose clocks a text that is a moment is read.
        tables: the small tables kept with the round, by name; each from key to value.
    """

    today: date | None = None
    locale: str = "en-CA"
    currency: str = "CAD"
    office: tzinfo = UTC
    tables: Mapping[str, Mapping[str, Cell]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Argument:
    """An argument: `convert` makes it the type the function wants, or raises Wrong with the column's name."""

    name: str
    convert: Callable[[Cell, str | None], Any]


class Keeps(StrEnum):
    """Which of its arguments a function gives back, perhaps rounded or added up, so that money stays money."""

    NOTHING = ""
    FIRST = "first"
    REST = "all but the first"
    ALL = "all"

    def of(self, arguments: Sequence[T]) -> Sequence[T]:
        """Those of the arguments."""
        start, end = {Keeps.FIRST: (0, 1), Keeps.REST: (1, None), Keeps.ALL: (0, None)}.get(self, (0, 0))
        return arguments[start:end]


@dataclass(frozen=True, slots=True)
class Function:
    """A function of the formula language.

    Attributes:
        name: in capitals.
        topic: the heading under which the help lists it.
        shape: its arguments as the clerk reads them: "amount; [digits]".
        doc: what it does, in one or two sentences.
        examples: formulas with their value written as a formula, or "#N/A" and the like for an error.
        arguments: one each, the last one standing for all further ones when `most` is None.
        least, most: how many arguments it takes; `most` is None when there is no end.
        work: the function itself. A plain one gets converted values; a `lazy` one gets the row and its arguments yet to
            be worked out; one that `in_context` gets the FormulaContext first.
        keeps, joins: see `define`.
    """

    name: str
    topic: str
    shape: str
    doc: str
    examples: tuple[tuple[str, str], ...]
    arguments: tuple[Argument, ...]
    least: int
    most: int | None
    work: Callable[..., Any]
    lazy: bool = False
    in_context: bool = False
    keeps: Keeps = Keeps.NOTHING
    joins: bool = False

    def argument(self, place: int) -> Argument:
        """The argument at a place counted from 0."""
        return self.arguments[min(place, len(self.arguments) - 1)]


_KINDS: dict[str, Callable[[Cell, str | None], Any]] = {
    "number": as_number,
    "counted": as_counted,
    "ordered": as_ordered,
    "text": as_text,
    "truth": as_truth,
    "date": as_day,
    "any": as_any,
    "needed": as_needed,
}
_ONE = re.compile(r"(\[)?([a-z ]+):([a-z]+)\]?(…)?")


def define(
    topic: str,
    name: str,
    takes: str,
    doc: str,
    *examples: tuple[str, str],
    lazy: bool = False,
    in_context: bool = False,
    keeps: Keeps = Keeps.NOTHING,
    joins: bool = False,
) -> Callable[[Callable[..., Any]], Function]:
    """Makes a Python function an entry of the registry.

    Args:
        topic: the heading in the help.
        name: in capitals.
        takes: "amount:number; [digits:number]"; brackets for what may be left out, "…" for what may be repeated.
        doc: for the help.
        examples: for the help and the tests.
        lazy: the function works its arguments out itself, so that only what is needed is worked out.
        in_context: the function gets the FormulaContext as its first argument.
        keeps: which arguments' money makes its result money.
        joins: its arguments are written one behind the other, as their columns are written.
    """
    found = [_ONE.fullmatch(piece.strip()) for piece in takes.split(";")] if takes else []
    matches = [match for match in found if match]
    if len(matches) != len(found):
        raise ValueError(f"{name}: {takes}")
    endless = bool(matches and matches[-1][4])
    shape = "; ".join(f"[{m[2]}]" if m[1] else m[2] + ("; …" if m[4] else "") for m in matches)
    shape += "; …" if endless and matches[-1][1] else ""

    def entry(work: Callable[..., Any]) -> Function:
        return Function(
            name,
            topic,
            shape,
            doc,
            examples,
            tuple(Argument(m[2], _KINDS[m[3]]) for m in matches),
            sum(not m[1] for m in matches),
            None if endless else len(matches),
            work,
            lazy,
            in_context,
            keeps,
            joins,
        )

    return entry
