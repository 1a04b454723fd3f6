"""Conditions of a round over its columns: whether a rule leaves a row out, whether a wording is a row's."""

from collections.abc import Hashable
from dataclasses import dataclass

from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.formulas.values import Code, Fault, Wrong, as_truth


@dataclass(frozen=True, slots=True)
class Condition:
    """A formula that is true or false in each row.

    Attributes:
        name: what it decides about, in the clerk's words.
        values: what the formula comes to, by place; None where it cannot be used.
        problem: why it cannot be used.
        key: stands for all besides cells that the values depend on.
        reads: positions of the columns of the sheet that its values come from in the end.
        asks_for_blanks: whether the formula itself asks what is blank.
    """

    name: str
    values: ByRow[Value] | None
    problem: FormulaError | None = None
    key: Hashable = None
    reads: frozenset[int] = frozenset()
    asks_for_blanks: bool = False

    def is_true(self, place: int) -> bool:
        """Whether it holds at a place. Raises Wrong when that cannot be said."""
        if self.values is None:
            raise Wrong(Code.VALUE, self.problem.what.rstrip(".") if self.problem else "it cannot be read")
        found = self.values[place]
        if isinstance(found, Unreadable):
            raise Wrong(found.code if isinstance(found, Fault) else Code.VALUE, found.why)
        return as_truth(found)
