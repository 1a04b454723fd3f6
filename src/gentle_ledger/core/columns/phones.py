"""The phone numbers of a round's rows, those of rows that go together included."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.countries import country_in
from gentle_ledger.core.cells.phones import DIFFERENT, NOT_COMPUTED, Number
from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.columns.combining import Groups
from gentle_ledger.core.columns.readings import Readings, number_of
from gentle_ledger.core.recipe.model import Recipe


@dataclass
class PhoneNumbers:
    """The numbers that the columns of a round have. `values` gives what a computed column comes to."""

    readings: Readings
    recipe: Recipe
    groups: Groups
    values: Callable[[int], ByRow[Value]]

    def all(self, position: int) -> list[Number]:
        """The numbers of all rows; a group's rows have its number."""
        if position < len(self.readings.sheet.columns) and not self.groups.members:
            return self._read(position).whole()
        return [self.number(position, self.groups.place(row)) for row in range(self.groups.rows)]

    def entries(self, position: int) -> ByRow[Number] | ByRow[Value]:
        """What the numbers of a column are made from, one entry a row."""
        return self._read(position) if position < len(self.readings.sheet.columns) else self.values(position)

    def number(self, position: int, row: int) -> Number:
        """The number a column has at a place; for a group it is the one that all its rows have."""
        if row >= self.groups.rows:
            members = self.groups.members[row - self.groups.rows]
            numbers = [self.number(position, member) for member in members]
            if len({number.e164 for number in numbers}) == 1:
                return numbers[0]
            return Number(problem=DIFFERENT(rows=" ".join(str(number_of_row(member)) for member in members)))
        if position < len(self.readings.sheet.columns):
            return self._read(position)[row]
        value = self.values(position)[row]
        if isinstance(value, Unreadable):
            return Number(problem=NOT_COMPUTED(why=value.why))
        return number_of(value, self._country_cell(row), self.recipe.region, self.recipe.locale)

    def region(self, row: int) -> str:
        """The country (ISO 3166-1) whose numbers a row has without their code: its own, or else the round's."""
        if self.country is None:
            return self.recipe.region
        return country_in(self._country_cell(row), self.recipe.locale) or self.recipe.region

    @cached_property
    def country(self) -> int | None:
        """The column that says which country a row's number is of; None where there is none."""
        return self.readings.country(self.recipe)

    @cached_property
    def _known(self) -> dict[int, ByRow[Number]]:
        return {}

    def _read(self, position: int) -> ByRow[Number]:
        if position not in self._known:
            self._known[position] = self.readings.numbers(position, self.recipe)
        return self._known[position]

    def _country_cell(self, row: int) -> Cell:
        return None if self.country is None else self.readings.sheet.rows[row][self.country]
