"""How a computed cell came about, in a line: "12.10 m × $14.00 + 118 kWh × $0.31 − $0.00 = $205.98"."""

import re
from collections.abc import Callable
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.formulas.registry import Evaluate
from gentle_ledger.core.formulas.tree import Call, Chain, Constant, FieldNode, Group, Node, Percent, Signed
from gentle_ledger.core.formulas.values import ERRORS, as_text, as_truth

MOST_CHARACTERS = 300

Shower = Callable[[FieldNode, int], str]
"""A field's value in a row as it stands in a text, with its unit."""

_SIGNS = {"*": "×", "/": "÷", "-": "−"}
_UNIT = re.compile(r"[(\[]\s*([^()\[\]\d]{1,8}?)\s*[)\]]\s*$")


def unit_of(column: str) -> str:
    """The unit that a column's name ends in, or "": "Length (m)" has "m"."""
    found = _UNIT.search(column)
    return found[1] if found else ""


class Explainer:
    """Puts a formula into a line with a row's values in it.

    Args:
        show: writes the value of a field.
        bound: makes a piece of the formula ready to be worked out.
        money: writes an amount, in a column of amounts; there a figure with two decimals is one.
    """

    def __init__(
        self, show: Shower, bound: Callable[[Node], Evaluate], money: Callable[[Decimal], str] | None = None
    ) -> None:
        self._show = show
        self._bound = bound
        self._money = money

    def explain(self, node: Node, row: int) -> str:
        """The formula with the row's values; only the branch that was chosen is shown."""
        if isinstance(node, Call) and node.name == "ROUND" and len(node.arguments) == 2:
            digits = node.arguments[1]
            decimals = digits.typed if isinstance(digits, Constant) else self._piece(digits, row)
            if self._money and decimals == "2":
                return clipped(self._piece(node.arguments[0], row), MOST_CHARACTERS)
            return clipped(f"{self._piece(node.arguments[0], row)}, rounded to {decimals} decimals", MOST_CHARACTERS)
        return clipped(self._piece(node, row), MOST_CHARACTERS)

    def _piece(self, node: Node, row: int) -> str:
        if isinstance(node, FieldNode):
            return self._show(node, row)
        if isinstance(node, Constant):
            return self._figure(node.value, node.typed)
        if isinstance(node, Group):
            return f"({self._piece(node.of, row)})"
        if isinstance(node, Signed):
            return f"{_SIGNS.get(node.sign, node.sign)}{self._piece(node.of, row)}"
        if isinstance(node, Percent):
            return f"{self._piece(node.of, row)}%"
        if isinstance(node, Chain):
            rest = "".join(f" {_SIGNS.get(sign, sign)} {self._piece(of, row)}" for sign, of in node.rest)
            return self._piece(node.first, row) + rest
        return self._call(node, row) if isinstance(node, Call) else ""

    def _call(self, node: Call, row: int) -> str:
        if node.name == "IF":
            return self._choice(node, row)
        if node.name in {"FROMTABLE", "TODAY"}:
            value = self._value(node, row)
            return self._figure(value, as_text(value))
        return f"{node.name}({'; '.join(self._piece(argument, row) for argument in node.arguments)})"

    def _choice(self, node: Call, row: int) -> str:
        condition = node.arguments[0]
        chosen = as_truth(self._value(condition, row))
        branches = node.arguments[1:]
        branch = branches[0] if chosen else branches[1] if len(branches) > 1 else None
        shown = self._piece(branch, row) if branch else "FALSE"
        return f"{shown} (because {self._piece(condition, row)} is {'true' if chosen else 'not true'})"

    def _figure(self, value: Cell, typed: str) -> str:
        if self._money and isinstance(value, Decimal) and value.as_tuple().exponent == -2:
            return self._money(value)
        return typed

    def _value(self, node: Node, row: int) -> Cell:
        return self._bound(node)(row)


def explained(explainer: Explainer, node: Node, row: int, result: str) -> str | None:
    """The line for a cell that was written as `result`; None when a piece of it has no value."""
    try:
        line = explainer.explain(node, row)
    except ERRORS:
        return None
    return f"{line} = {result}"
