"""A sheet with a recipe worked out: its columns, its numbers, and the rows that go together."""

from collections.abc import Callable, Collection
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.columns.column_set import ColumnSet, column_set
from gentle_ledger.core.columns.combining import Groups, grouped
from gentle_ledger.core.columns.evaluation import Evaluation
from gentle_ledger.core.columns.phones import PhoneNumbers
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.formulas.values import as_text
from gentle_ledger.core.recipe.model import Recipe


@dataclass(frozen=True)
class Evaluated:
    """A sheet with a recipe, worked out.

    Attributes:
        columns: which there are.
        evaluation: their cells; the rows of a group are combined in it.
        phones: the phone numbers that a column has.
        combine_problem: why rows cannot be combined as is set.
    """

    columns: ColumnSet
    evaluation: Evaluation
    phones: PhoneNumbers
    combine_problem: RecipeError | None


def evaluate(
    readings: Readings,
    recipe: Recipe,
    left_out: Collection[int] = frozenset(),
    grouped: Callable[[], Groups] | None = None,
) -> Evaluated:
    """Binds the columns of a sheet with a recipe; cells are worked out when they are asked for.

    Args:
        readings: the sheet, and what was read of it.
        recipe: the set-up.
        left_out: the rows (from 0) that the clerk keeps out: they go together with no others.
        grouped: says which rows go together where they are to be combined; by default all of them are read for that.
    """
    columns = column_set(readings, recipe)
    alone = Evaluation(readings, recipe, columns, Groups(len(readings.sheet.rows)))
    if recipe.combine is None:
        return Evaluated(columns, alone, _phones(alone), None)
    for name in (recipe.combine.by, *recipe.combine.columns):
        if columns.position(name) is None:
            problem = RecipeError(
                f'Rows are to be combined by way of a column "{clipped(name)}", which is not there.',
                f"There is {listed(columns.names, 6)}.",
                column=name,
            )
            return Evaluated(columns, alone, _phones(alone), problem)
    together = Evaluation(readings, recipe, columns, _groups(alone, recipe.combine.by, left_out, grouped))
    return Evaluated(columns, together, _phones(together), None)


def _phones(evaluation: Evaluation) -> PhoneNumbers:
    def computed(position: int) -> ByRow[Value]:
        return evaluation.column(position).values

    return PhoneNumbers(evaluation.readings, evaluation.recipe, evaluation.groups, computed)


def _groups(alone: Evaluation, by: str, left_out: Collection[int], ask: Callable[[], Groups] | None) -> Groups:
    """The rows that become one text. Rows whose key is blank, or whose number cannot be read, stand alone."""
    position = alone.columns.position(by) or 0
    column, phones = alone.column(position), _phones(alone)
    is_number = column.role is Role.MOBILE

    def key(row: int) -> str:
        if is_number:
            number = phones.number(position, row)
            return "" if number.problem else number.e164
        value = column.values[row]
        return "" if isinstance(value, Unreadable) else column_key(as_text(value))

    def make() -> Groups:
        return grouped([key(row) for row in range(alone.groups.rows)], left_out)

    recipe, reads, country = alone.recipe, set(column.reads), phones.country
    if is_number and country is not None:
        reads.add(country)
    read_as = (country, recipe.region, recipe.locale) if is_number else None
    return alone.readings.cache.kept(("groups", column.key, read_as, frozenset(left_out)), reads, ask or make)
