"""What was read of one sheet: numbers, columns and their recognised roles, kept from one change to the next."""

from dataclasses import dataclass, field
from decimal import Decimal

from gentle_ledger.core import formats
from gentle_ledger.core.numbers import Number, tidy_number
from gentle_ledger.core.reading import Value, reader
from gentle_ledger.core.recipe import Recipe
from gentle_ledger.core.roles import recognise_roles
from gentle_ledger.core.rows import ByRow
from gentle_ledger.core.sheets.model import Sheet, is_blank
from gentle_ledger.core.values import Role, Unreadable

Shown = str | Unreadable | None
"""A cell as it stands in a text; None is blank."""


class Column:
    """One column read by its role, cell by cell: `values` as read, `shown` as they stand in a text."""

    def __init__(self, sheet: Sheet, position: int, role: Role, currency: str, locale: str) -> None:
        cells = sheet.values(position)
        read = reader(cells, role, currency, locale)
        values = ByRow(len(cells), lambda row: read(cells[row]))
        self.name = sheet.columns[position]
        self.values: ByRow[Value] = values
        self.shown: ByRow[Shown] = ByRow(len(cells), lambda row: show(values[row], role, currency, locale))


def show(value: Value, role: Role, currency: str, locale: str) -> Shown:
    """A value as it stands in a text."""
    if value is None or isinstance(value, (str, Unreadable)):
        return value
    if isinstance(value, Decimal):
        return formats.money(value, currency, locale) if role is Role.MONEY else formats.number(value, locale)
    return formats.day(value, locale)


@dataclass
class Workings:
    """What was read of one sheet, kept so that a change of the wording reads no cell again.

    Keyed by all that the reading depends on, so it is never stale; belongs to exactly one sheet.
    """

    sheet: Sheet
    _numbers: dict[tuple[int, str], ByRow[Number]] = field(default_factory=dict)
    _columns: dict[tuple[int, Role, str, str], Column] = field(default_factory=dict)
    _roles: dict[tuple[str, str], tuple[Role, ...]] = field(default_factory=dict)
    _blanks: dict[int, int] = field(default_factory=dict)

    def numbers(self, position: int, region: str) -> ByRow[Number]:
        """The phone numbers of a column, read as numbers of `region`."""
        key = (position, region)
        if key not in self._numbers:
            cells = self.sheet.values(position)
            self._numbers[key] = ByRow(len(cells), lambda row: tidy_number(cells[row], region))
        return self._numbers[key]

    def column(self, position: int, role: Role, recipe: Recipe) -> Column:
        key = (position, role, recipe.currency, recipe.locale)
        if key not in self._columns:
            self._columns[key] = Column(self.sheet, position, role, recipe.currency, recipe.locale)
        return self._columns[key]

    def blanks(self, position: int) -> int:
        """How many cells of a column are blank."""
        if position not in self._blanks:
            self._blanks[position] = sum(is_blank(row[position]) for row in self.sheet.rows)
        return self._blanks[position]

    def recognised(self, recipe: Recipe) -> tuple[Role, ...]:
        key = (recipe.region, recipe.locale)
        if key not in self._roles:
            self._roles[key] = recognise_roles(self.sheet, recipe.region, recipe.locale)
        return self._roles[key]

    def roles(self, recipe: Recipe) -> tuple[Role, ...]:
        """Each column's role: the one that was set, else the recognised one.

        A set mobile number takes the role from the recognised column, so that texts go to one number only.
        """
        chosen = [recipe.setting(column).role for column in self.sheet.columns]
        taken = Role.MOBILE in chosen
        return tuple(
            own or (Role.TEXT if taken and guess is Role.MOBILE else guess)
            for own, guess in zip(chosen, self.recognised(recipe), strict=True)
        )
