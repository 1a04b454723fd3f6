"""How a column is shown in a sheet and in a file: an example, where its cells line up, how a cell came about."""

from collections.abc import Callable
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.order import Reading
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.columns.column_set import parsed
from gentle_ledger.core.columns.evaluation import Evaluation
from gentle_ledger.core.columns.writing import as_value
from gentle_ledger.core.formulas.explain import Explainer, explained, unit_of
from gentle_ledger.core.formulas.tree import FieldNode
from gentle_ledger.core.formulas.values import ZERO, Code, Fault
from gentle_ledger.core.recipe.format import FormatKind

_FIRST = 20
"""Rows that are looked at for an example."""


def outputs(evaluation: Evaluation) -> dict[str, Callable[[int], Cell]]:
    """The computed columns by name, each giving a row's value for a file: money at its digits, None for none.

    An error is no blank: it is written as its code, such as #DIV/0!, and known by that when the file comes back.
    """
    columns = evaluation.columns
    return {columns.names[i]: _output(evaluation, i) for i in range(columns.first_computed, len(columns.names))}


def _output(evaluation: Evaluation, position: int) -> Callable[[int], Cell]:
    column, currency = evaluation.column(position), evaluation.recipe.currency

    def value(row: int) -> Cell:
        found = column.values[row]
        if isinstance(found, Unreadable):
            return found.code.value if isinstance(found, Fault) else Code.VALUE.value
        return None if found == "" else as_value(found, column.format, currency)

    return value


def example(evaluation: Evaluation, position: int) -> str:
    """The first filled cell of a column, as it stands in a text; "" when the first few are blank."""
    column = evaluation.column(position)
    first = (column.shown[row] for row in range(min(evaluation.groups.rows, _FIRST)))
    return next((clipped(text) for text in first if isinstance(text, str)), "")


def reading_of(evaluation: Evaluation, position: int) -> Reading:
    """How a column of the sheet is read by its cells alone; nothing to tell of a computed one."""
    columns = evaluation.columns
    if position >= columns.first_computed:
        return Reading()
    return evaluation.readings.reading(position, columns.roles[position], evaluation.recipe)


def lines_up(evaluation: Evaluation, position: int) -> bool:
    """True for a column whose cells line up to the right: figures by its role or, without a format, its values."""
    column = evaluation.column(position)
    if column.role.counts or column.format or position < evaluation.columns.first_computed:
        return column.role.counts
    first = (column.values[row] for row in range(min(evaluation.groups.rows, _FIRST)))
    return any(isinstance(value, Decimal) for value in first)


class CellExplainer:
    """Says how computed cells came about."""

    def __init__(self, evaluation: Evaluation) -> None:
        self._evaluation = evaluation
        self._of_columns: dict[int, Explainer] = {}

    def explained(self, position: int, row: int) -> str | None:
        """How a cell came about, in a line; None for a cell of the sheet, and for one without a value."""
        evaluation = self._evaluation
        formula = evaluation.columns.settings[position].formula
        computed = position >= evaluation.columns.first_computed
        if not computed or formula is None or position in evaluation.problems:
            return None
        result = evaluation.column(position).shown[row]
        if not isinstance(result, str):
            return None
        return explained(self._explainer(position), parsed(formula), row, result)

    def _explainer(self, position: int) -> Explainer:
        if position not in self._of_columns:
            writer, wanted = self._evaluation.writer, self._evaluation.column(position).format
            amounts = wanted is not None and wanted.kind is FormatKind.MONEY
            self._of_columns[position] = Explainer(
                self._with_unit,
                self._evaluation.bound_node,
                (lambda amount: str(writer.write(amount, wanted))) if amounts else None,
            )
        return self._of_columns[position]

    def _with_unit(self, node: FieldNode, row: int) -> str:
        position = self._evaluation.columns.position(node.name)
        column = None if position is None else self._evaluation.column(position)
        if column is None:
            return f"{{{node.name}}}"
        shown = column.shown[row]
        if shown is None and column.role.counts:
            # A blank cell counts as nothing in a sum, and that is to be seen.
            shown = self._evaluation.writer.write(ZERO, column.format)
        if not isinstance(shown, str):
            return "(blank)" if shown is None else f"'{clipped(shown.typed)}'"
        quoted = shown if column.role.counts or not isinstance(column.values[row], str) else f'"{clipped(shown)}"'
        unit = unit_of(column.name)
        return f"{quoted} {unit}" if unit and column.role.counts else quoted
