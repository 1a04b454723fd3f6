"""What was read and worked out of one sheet, kept from one change to the next."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from typing import TypeVar, cast

from gentle_ledger.core.countries import country_in
from gentle_ledger.core.numbers import Number, tidy_number
from gentle_ledger.core.order import Order, Reading, answer_for
from gentle_ledger.core.reading import Value, column_reading, percents, read_by
from gentle_ledger.core.recipe import Recipe
from gentle_ledger.core.roles import recognise_roles
from gentle_ledger.core.rows import ByRow
from gentle_ledger.core.sheets.model import Cell, Sheet, as_written, is_blank
from gentle_ledger.core.sheets.sent_marks import SentMarks, sent_marks
from gentle_ledger.core.values import Role
from gentle_ledger.core.words import clipped

T = TypeVar("T")

_LOOK_AT = 200
_NEARLY_ALL = 0.8

_MOST_KEPT = 200
"""Columns of values and of written cells that are kept: those of any sheet, and of the last formulas tried on it."""


@dataclass
class Workings:
    """What was read of one sheet, kept so that a change of the wording reads no cell and works no formula out again.

    Keyed by all that a value depends on, so it is never stale; belongs to exactly one sheet.
    """

    sheet: Sheet
    _kept: OrderedDict[Hashable, object] = field(default_factory=OrderedDict)
    _guard: threading.Lock = field(default_factory=threading.Lock)

    def kept(self, key: Hashable, make: Callable[[], T]) -> T:
        """What was made under this key before, or is made now; the oldest goes when there is too much."""
        with self._guard:
            if key in self._kept:
                self._kept.move_to_end(key)
                return cast("T", self._kept[key])
        made = make()
        with self._guard:
            found = self._kept.setdefault(key, made)
            while len(self._kept) > max(_MOST_KEPT, 4 * len(self.sheet.columns)):
                self._kept.popitem(last=False)
        return cast("T", found)

    def numbers(self, position: int, recipe: Recipe) -> ByRow[Number]:
        """The phone numbers of a column, each read as one of the row's country, or else of the round's."""
        country = self.country(recipe)

        def make() -> ByRow[Number]:
            return ByRow(len(self.sheet.rows), _tidied(self.sheet, position, country, recipe.region, recipe.locale))

        return self.kept(("numbers", position, country, recipe.region, recipe.locale), make)

    def country(self, recipe: Recipe) -> int | None:
        """The column that says which country a row's number is of; None where there is none."""
        return next((i for i, role in enumerate(self.roles(recipe)) if role is Role.COUNTRY), None)

    def values(self, position: int, role: Role, recipe: Recipe) -> ByRow[Value]:
        """The cells of a column of the sheet as its role reads them."""

        def make() -> ByRow[Value]:
            cells, order = self.sheet.values(position), self._order(position, role, recipe)
            known = Reading() if order else self.reading(position, role, recipe)
            read = read_by(known, role, recipe.currency, recipe.locale, order)
            return ByRow(len(cells), lambda row: read(cells[row]))

        return self.kept(self.values_key(position, role, recipe), make)

    def values_key(self, position: int, role: Role, recipe: Recipe) -> Hashable:
        return ("values", position, role, recipe.currency, recipe.locale, self._order(position, role, recipe))

    def _order(self, position: int, role: Role, recipe: Recipe) -> Order | None:
        return answer_for(role, recipe.setting(self.sheet.columns[position]).reading)

    def reading(self, position: int, role: Role, recipe: Recipe) -> Reading:
        """How a column of the sheet writes its figures or its days, by its cells alone, and what it leaves open."""
        return self.kept(
            ("reading", position, role, recipe.currency, recipe.locale),
            lambda: column_reading(self.sheet.values(position), role, recipe.currency, recipe.locale),
        )

    def questions(self, recipe: Recipe) -> dict[int, Reading]:
        """The columns of the sheet, by place, of which it is a question how they are read, and nobody has said."""
        roles = enumerate(self.roles(recipe))
        open_ones = [(place, role) for place, role in roles if not self._order(place, role, recipe)]
        found = {place: self.reading(place, role, recipe) for place, role in open_ones}
        return {place: reading for place, reading in found.items() if reading.question}

    def in_percent(self, position: int) -> bool:
        """True for a column of the sheet whose figures are nearly all in percent."""

        def make() -> bool:
            cells = [cell for cell in self.sheet.values(position) if not is_blank(cell)]
            return bool(cells) and percents(cells) >= _NEARLY_ALL * len(cells)

        return self.kept(("percent", position), make)

    def mended(self, sheet: Sheet, places: Sequence[tuple[int, int]]) -> "Workings":
        """What is known of the sheet after some cells were mended: all that does not come from them.

        Args:
            sheet: the sheet with the mended cells.
            places: their rows and columns, from 0.
        """
        found = Workings(sheet)
        columns = {position for _, position in places}
        with self._guard:
            for key, known in self._kept.items():
                if isinstance(key, tuple) and key[0] == "numbers" and columns & {key[1], key[2]}:
                    rows = [row for row, position in places if position in {key[1], key[2]}]
                    again = _tidied(sheet, *key[1:])
                    found._kept[key] = cast("ByRow[Number]", known).anew(rows, again)
                elif not any(_comes_from(key, position) for position in columns):
                    found._kept[key] = known
        return found

    def characters(self, position: int, share: float) -> int:
        """How many characters that share of the first cells of a column of the sheet have at most."""

        def make() -> int:
            lengths = sorted(len(as_written(row[position])) for row in self.sheet.rows[:_LOOK_AT])
            return lengths[int((len(lengths) - 1) * share)] if lengths else 0

        return self.kept(("characters", position, share), make)

    def sent_marks(self) -> tuple[SentMarks, ...]:
        """The columns of the sheet that say which rows were sent."""
        return self.kept(("sent marks",), lambda: sent_marks(self.sheet))

    def blanks(self, position: int) -> int:
        """How many cells of a column of the sheet are blank."""
        return self.kept(("blanks", position), lambda: sum(is_blank(row[position]) for row in self.sheet.rows))

    def recognised(self, recipe: Recipe) -> tuple[Role, ...]:
        """The role each column of the sheet seems to have."""
        key = ("roles", recipe.region, recipe.locale)
        return self.kept(key, lambda: recognise_roles(self.sheet, recipe.region, recipe.locale))

    def roles(self, recipe: Recipe) -> tuple[Role, ...]:
        """The role of each column of the sheet: the one that was set, else the recognised one.

        A set mobile number takes the role from the recognised column, so that texts go to one number only.
        """
        chosen = [recipe.setting(column).role for column in self.sheet.columns]
        taken = any(settings.role is Role.MOBILE for settings in recipe.columns.values())
        return tuple(
            own or (Role.TEXT if taken and guess is Role.MOBILE else guess)
            for own, guess in zip(chosen, self.recognised(recipe), strict=True)
        )


def _tidied(sheet: Sheet, position: int, country: int | None, region: str, locale: str) -> Callable[[int], Number]:
    cells = sheet.values(position)
    if country is None:
        return lambda row: tidy_number(cells[row], region)
    countries = sheet.values(country)
    return lambda row: number_of(cells[row], countries[row], region, locale)


def number_of(cell: Cell, country: Cell, region: str, locale: str) -> Number:
    """A number of the country that its row names; of the round's own where that is blank."""
    named = region if is_blank(country) else country_in(country, locale)
    if named is None:
        return Number(problem=f'"{clipped(as_written(country))}" is no country whose numbers are known')
    return tidy_number(cell, named)


def _comes_from(key: Hashable, position: int) -> bool:
    """Whether what is kept under the key depends on the cells of a column; roles depend on all of them."""
    if not isinstance(key, tuple):
        return False
    if key[:1] in {("roles",), ("sent marks",)}:
        return True
    if key[:1] in {("values",), ("numbers",), ("blanks",), ("reading",), ("characters",), ("percent",)}:
        return bool(key[1] == position)
    return any(_comes_from(part, position) for part in key)
