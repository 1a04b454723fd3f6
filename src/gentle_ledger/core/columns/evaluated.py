"""A sheet with a recipe worked out: its columns, its numbers, and the rows that go together."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.cells.headings import NOT_PERSONS, heading_words
from gentle_ledger.core.cells.persons import all_known, are_one_person, may_be_one_person
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
from gentle_ledger.core.recipe.model import BelongTogether, Recipe


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

    names = NamesOfRows(alone, position)
    said: dict[str, list[BelongTogether]] = {}
    for each in alone.recipe.belong_together:
        said.setdefault(each.key, []).append(each)

    def belong(key: str, rows: Sequence[int]) -> bool:
        found = names.of(rows)
        return are_one_person(found) or any(all_known(found, each.names) for each in said.get(key, ()))

    def make() -> Groups:
        keys = [key_of_row(alone, phones, position, row) for row in range(alone.groups.rows)]
        return grouped(keys, left_out, belong)

    recipe, reads, country = alone.recipe, set(column.reads) | names.reads, phones.country
    if is_number and country is not None:
        reads.add(country)
    read_as = (country, recipe.region, recipe.locale) if is_number else None
    depends = ("groups", column.key, read_as, frozenset(left_out), names.key, recipe.belong_together)
    return alone.readings.cache.kept(depends, reads, ask or make)


class NamesOfRows:
    """What the people of rows are called, by all columns of names but those of things, such as boats.

    `by` is the position of the column that rows are combined by: what is in it is the same in all of them.
    """

    def __init__(self, evaluation: Evaluation, by: int | None = None) -> None:
        columns = evaluation.columns
        positions = [
            i
            for i, role in enumerate(columns.roles)
            if role is Role.NAME and i != by and NOT_PERSONS.isdisjoint(heading_words(columns.names[i]))
        ]
        self._columns = [evaluation.column(i) for i in positions]
        self.reads = frozenset[int]().union(*(column.reads for column in self._columns))
        self.key = tuple(column.key for column in self._columns)

    def name(self, row: int) -> str:
        """The name of a row: each cell that has a word which those before it have not."""
        found: list[str] = []
        for column in self._columns:
            value = column.values[row]
            if isinstance(value, str) and value.strip() and not (found and may_be_one_person(value, " ".join(found))):
                found.append(value.strip())
        return " ".join(found)

    def of(self, rows: Sequence[int]) -> list[str]:
        """The different names of some rows, in their order; none for those without one."""
        return [name for name in dict.fromkeys(map(self.name, rows)) if name]


def key_of_row(evaluation: Evaluation, phones: PhoneNumbers, position: int, row: int) -> str:
    """What a row is combined by, where that is the column at that position: its number in E.164, or its cell; "" where
    it belongs to nobody.
    """
    column = evaluation.column(position)
    if column.role is Role.MOBILE:
        number = phones.number(position, row)
        return "" if number.problem else number.e164
    value = column.values[row]
    return "" if isinstance(value, Unreadable) else column_key(as_text(value))
