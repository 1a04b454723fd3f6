"""From a formula's tree to a function of the row: names looked up and arguments counted once, not in every row."""

import difflib
from collections.abc import Callable, Sequence
from decimal import Decimal
from typing import Any

from gentle_ledger.core.cells.cell import Cell, column_key
from gentle_ledger.core.cells.words import clipped, count, listed
from gentle_ledger.core.formulas.functions import BY_NAME
from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.formulas.registry import Evaluate, FormulaContext, Function
from gentle_ledger.core.formulas.tree import Bare, Call, Chain, Constant, FieldNode, Group, Node, Percent, Signed
from gentle_ledger.core.formulas.values import (
    WORK,
    Code,
    Wrong,
    as_day,
    as_number,
    as_text,
    before,
    bounded,
    days_between,
    equal,
    moved,
)

Finder = Callable[[FieldNode], Evaluate]
"""From a field to its value in a row; raises FormulaError when there is no such column."""

_HUNDRED = Decimal(100)


AsWritten = Callable[[Node, Evaluate], Evaluate]
"""From a piece that becomes part of a text, and its values, to these as they are written: amounts with their sign."""


def as_it_is(_node: Node, value: Evaluate) -> Evaluate:
    """Writes nothing otherwise than it is."""
    return value


def bind(node: Node, column: Finder, around: FormulaContext, as_written: AsWritten = as_it_is) -> Evaluate:
    """Makes a formula ready to be worked out for any row.

    Args:
        node: the tree.
        column: finds the values of a field.
        around: what else the formula may know.
        as_written: writes what is joined to a text with & and the like.

    Raises:
        FormulaError: a column, a function or its number of arguments is wrong; with its place.
    """
    return _Binder(column, around, as_written).bind(node)


def said(node: Node) -> str | None:
    """The column a value comes straight from, so that an error can name it."""
    while isinstance(node, Group) or (isinstance(node, Call) and node.name == "NEEDED" and node.arguments):
        node = node.of if isinstance(node, Group) else node.arguments[0]
    return node.name if isinstance(node, FieldNode) else None


class _Binder:
    def __init__(self, column: Finder, around: FormulaContext, as_written: AsWritten) -> None:
        self._column = column
        self._context = around
        self._as_written = as_written

    def bind(self, node: Node) -> Evaluate:
        if isinstance(node, Constant):
            value = node.value
            return lambda _row: value
        if isinstance(node, FieldNode):
            return self._column(node)
        if isinstance(node, Group):
            return self.bind(node.of)
        if isinstance(node, Signed):
            return self._signed(node)
        if isinstance(node, Percent):
            of, name = self.bind(node.of), said(node.of)
            return lambda row: WORK.divide(as_number(of(row), name), _HUNDRED)
        if isinstance(node, Chain):
            return self._chain(node)
        if isinstance(node, Bare):
            raise self._bare(node)
        return self._call(node)

    def _signed(self, node: Signed) -> Evaluate:
        of, name = self.bind(node.of), said(node.of)
        if node.sign == "+":
            return lambda row: as_number(of(row), name)
        return lambda row: WORK.minus(as_number(of(row), name))

    def _chain(self, node: Chain) -> Evaluate:
        joins = node.rest[0][0] == "&"
        found, name = self._part(node.first, joins=joins), said(node.first)
        for operator, right in node.rest:
            found = _operate(_OPERATORS[operator], found, name, self._part(right, joins=joins), said(right))
            name = None
        return found

    def _part(self, node: Node, *, joins: bool) -> Evaluate:
        """A piece of a formula; one that becomes part of a text as it is written there."""
        return self._as_written(node, self.bind(node)) if joins else self.bind(node)

    def _bare(self, node: Bare) -> FormulaError:
        place = node.place
        entry = BY_NAME.get(node.name.upper())
        if entry:
            hint = f"A function is followed by its arguments in brackets: {entry.name}({entry.shape})."
        else:
            hint = f"Put a column's name in curly brackets, {{{node.name}}}, and a text between double quotes."
        return FormulaError(place.start, place.end, f'"{clipped(node.name)}" stands alone.', hint)

    def _call(self, node: Call) -> Evaluate:
        entry = BY_NAME.get(node.name)
        if entry is None:
            near = difflib.get_close_matches(node.name, BY_NAME, n=3, cutoff=0.6)
            hint = f"Did you mean {listed(near).replace(' and ', ' or ')}?" if near else "The help lists all functions."
            start = node.place.start
            raise FormulaError(start, node.name_end, f'There is no function "{clipped(node.name)}".', hint)
        _refuse_count(entry, node)
        bound = [self._part(argument, joins=entry.joins) for argument in node.arguments]
        work = entry.work
        if entry.lazy:
            return lambda row: work(row, *bound)
        wanted: list[tuple[Evaluate, Callable[[Cell, str | None], Any], str | None]] = [
            (value, entry.argument(i).convert, said(node.arguments[i])) for i, value in enumerate(bound)
        ]
        around = (self._context,) if entry.in_context else ()
        return lambda row: work(*around, *[convert(v(row), name) for v, convert, name in wanted])


def _refuse_count(entry: Function, node: Call) -> None:
    given = len(node.arguments)
    if given >= entry.least and (entry.most is None or given <= entry.most):
        return
    if entry.most is None:
        wants = f"at least {count(entry.least, 'argument')}"
    elif entry.least == entry.most:
        wants = count(entry.most, "argument") if entry.most else "no arguments"
    else:
        wants = f"{entry.least} to {count(entry.most, 'argument')}"
    raise FormulaError(
        node.place.start,
        node.place.end,
        f"{entry.name} takes {wants}, not {given}.",
        f"Write {entry.name}({entry.shape}).",
    )


Operation = Callable[[Cell, Cell, str | None, str | None], Cell]


def _operate(
    work: Operation, left: Evaluate, left_name: str | None, right: Evaluate, right_name: str | None
) -> Evaluate:
    return lambda row: work(left(row), right(row), left_name, right_name)


def _add(left: Cell, right: Cell, a: str | None, b: str | None) -> Cell:
    if type(left) is Decimal and type(right) is Decimal:
        return WORK.add(left, right)
    if _is_day(left):
        return moved(as_day(left), as_number(right, b))
    if _is_day(right):
        return moved(as_day(right), as_number(left, a))
    return WORK.add(as_number(left, a), as_number(right, b))


def _subtract(left: Cell, right: Cell, a: str | None, b: str | None) -> Cell:
    if type(left) is Decimal and type(right) is Decimal:
        return WORK.subtract(left, right)
    if _is_day(left):
        if isinstance(right, (Decimal, bool)):
            return moved(as_day(left), -as_number(right, b))
        return days_between(as_day(left), as_day(right, b))
    if _is_day(right):
        return days_between(as_day(left, a), as_day(right))
    return WORK.subtract(as_number(left, a), as_number(right, b))


def _is_day(value: Cell) -> bool:
    # A `Cell` is a date exactly when it has this; datetime is one too.
    return hasattr(value, "toordinal")


def _times(left: Cell, right: Cell, a: str | None, b: str | None) -> Cell:
    return WORK.multiply(as_number(left, a), as_number(right, b))


def _over(left: Cell, right: Cell, a: str | None, b: str | None) -> Cell:
    divisor = as_number(right, b)
    if not divisor:
        why = (
            f"{b} is {'blank' if right is None else '0'}, and nothing can be divided by it" if b else "a division by 0"
        )
        raise Wrong(Code.DIVISION, why, b)
    return WORK.divide(as_number(left, a), divisor)


def _power(left: Cell, right: Cell, a: str | None, b: str | None) -> Cell:
    return BY_NAME["POWER"].work(as_number(left, a), as_number(right, b))  # type: ignore[no-any-return]


def _join(left: Cell, right: Cell, _a: str | None, _b: str | None) -> Cell:
    return bounded(as_text(left) + as_text(right))


_OPERATORS: dict[str, Operation] = {
    "+": _add,
    "-": _subtract,
    "*": _times,
    "/": _over,
    "^": _power,
    "&": _join,
    "=": lambda left, right, _a, _b: equal(left, right),
    "<>": lambda left, right, _a, _b: not equal(left, right),
    "<": lambda left, right, a, b: before(left, right, (a, b)),
    ">": lambda left, right, a, b: before(right, left, (b, a)),
    "<=": lambda left, right, a, b: not before(right, left, (b, a)),
    ">=": lambda left, right, a, b: not before(left, right, (a, b)),
}


def unknown_column(node: FieldNode, columns: Sequence[str]) -> FormulaError:
    """The error of a field that no column answers to, with the columns that come closest."""
    keys = {column_key(name): name for name in columns}
    near = [keys[key] for key in difflib.get_close_matches(column_key(node.name), keys, n=2, cutoff=0.7)]
    there = listed(columns, 6)
    hint = f"Did you mean {' or '.join(f'{{{name}}}' for name in near)}?" if near else f"There is {there}."
    if not node.name:
        return FormulaError(node.place.start, node.place.end, "A field without a name.", "Write a column's name in it.")
    return FormulaError(
        node.place.start, node.place.end, f'No column is called "{clipped(node.name)}".', hint, column=node.name
    )
