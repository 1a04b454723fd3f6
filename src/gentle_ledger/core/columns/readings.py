"""What the cells of one sheet are read as, kept so that a change of the wording reads no cell again."""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import replace
from datetime import UTC, tzinfo

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank, same_cell, same_cells
from gentle_ledger.core.cells.countries import country_in
from gentle_ledger.core.cells.order import Reading, answer_for
from gentle_ledger.core.cells.phones import NO_SUCH_COUNTRY, Number, tidy_number
from gentle_ledger.core.cells.reading import Value, among_percents, column_reading, percents, read_by
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.witnesses import witnesses_in
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.columns.cache import Cache
from gentle_ledger.core.columns.number_columns import NumberColumns
from gentle_ledger.core.columns.recognise import Verdict, numbers_in, recognise
from gentle_ledger.core.columns.shapes import Shapes, odd_ones
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sheets.sent_marks import SentMarks, beside_marks, sent_marks_in

_LOOK_AT = 200
_NEARLY_ALL = 0.8

_MOST_KEPT = 200
"""Columns of values and of written cells that are kept: those of any sheet, and of the last formulas tried on it."""


class Readings:
    """One sheet with all that was read and worked out of it.

    Args:
        sheet: the sheet.
        office: the zone of the office, by whose clocks moments of other zones are read.
        cache: the rest that is worked out from its cells.
    """

    def __init__(self, sheet: Sheet, office: tzinfo = UTC, cache: Cache | None = None) -> None:
        self.sheet = sheet
        self.office = office
        self.cache = cache or Cache(max(_MOST_KEPT, 4 * len(sheet.columns)))
        self._all = frozenset(range(len(sheet.columns)))

    def after(self, sheet: Sheet, changed: Sequence[tuple[int, int]]) -> "Readings":
        """What still holds of the sheet after some cells (rows and columns from 0) got another content in it."""
        return Readings(sheet, self.office, self.cache.after(changed, sheet))

    def anew(self, sheet: Sheet) -> "Readings":
        """Another sheet of the same office, of which nothing was read yet."""
        return Readings(sheet, self.office)

    def brought_to(self, sheet: Sheet) -> "Readings":
        """What still holds of a sheet that is another version of this one: of one with the same places, nearly all."""
        was = self.sheet
        if (was.columns, was.hidden, len(was.rows)) != (sheet.columns, sheet.hidden, len(sheet.rows)):
            return self.anew(sheet)
        changed = [
            (row, column)
            for row, (before, now) in enumerate(zip(was.rows, sheet.rows, strict=True))
            if not same_cells(before, now)
            for column, (cell, other) in enumerate(zip(before, now, strict=True))
            if not same_cell(cell, other)
        ]
        return self.after(sheet, changed)

    def numbers(self, position: int, recipe: Recipe) -> ByRow[Number]:
        """The phone numbers of a column, each read as one of the row's country, or else of the round's."""
        country, region, locale = self.country(recipe), recipe.region, recipe.locale

        def make() -> ByRow[Number]:
            return ByRow(len(self.sheet.rows), _tidied(self.sheet, position, country, region, locale))

        def redo(known: ByRow[Number], rows: Sequence[int], sheet: Sheet) -> ByRow[Number]:
            return known.anew(rows, _tidied(sheet, position, country, region, locale))

        reads = {position} if country is None else {position, country}
        return self.cache.kept(("numbers", position, country, region, locale), reads, make, redo)

    def country(self, recipe: Recipe) -> int | None:
        """The column that says which country a row's number is of; None where there is none."""
        return next((i for i, role in enumerate(self.roles(recipe)) if role is Role.COUNTRY), None)

    def values(self, position: int, role: Role, recipe: Recipe) -> ByRow[Value]:
        """The cells of a column as its role reads them."""

        def make() -> ByRow[Value]:
            cells = self.sheet.values(position)
            read = read_by(self.reading(position, role, recipe), role, recipe.currency, recipe.locale, self.office)
            if role is Role.NUMBER and self.in_percent(position):
                read = among_percents(read)
            return ByRow(len(cells), lambda row: read(cells[row]))

        return self.cache.kept(self.values_key(position, role, recipe), {position}, make)

    def values_key(self, position: int, role: Role, recipe: Recipe) -> Hashable:
        """Stands for all besides its cells that the values of a column depend on."""
        return ("values", *self._read_as(position, role, recipe))

    def _read_as(self, position: int, role: Role, recipe: Recipe) -> tuple[Hashable, ...]:
        said = answer_for(role, recipe.setting(self.sheet.columns[position]).reading)
        return (position, role, recipe.currency, recipe.locale, said)

    def reading(self, position: int, role: Role, recipe: Recipe) -> Reading:
        """How a column writes its figures or its days, by its cells and by what was said, and what it leaves open."""
        said = recipe.setting(self.sheet.columns[position]).reading
        return self.cache.kept(
            ("reading", *self._read_as(position, role, recipe)),
            {position},
            lambda: column_reading(
                self.sheet.values(position), role, recipe.currency, recipe.locale, said, self.office
            ),
        )

    def questions(self, recipe: Recipe) -> dict[int, Reading]:
        """The columns, by place, of which it is a question how they are read, and nobody has said."""
        found = {place: self.reading(place, role, recipe) for place, role in enumerate(self.roles(recipe))}
        return {place: reading for place, reading in found.items() if reading.question}

    def in_percent(self, position: int) -> bool:
        """True for a column whose figures are nearly all in percent."""

        def make() -> bool:
            cells = [cell for cell in self.sheet.values(position) if not is_blank(cell)]
            return bool(cells) and percents(cells) >= _NEARLY_ALL * len(cells)

        return self.cache.kept(("percent", position), {position}, make)

    def characters(self, position: int, share: float) -> int:
        """How many characters that share of the first cells of a column have at most."""

        def make() -> int:
            lengths = sorted(len(as_written(row[position])) for row in self.sheet.rows[:_LOOK_AT])
            return lengths[int((len(lengths) - 1) * share)] if lengths else 0

        return self.cache.kept(("characters", position, share), {position}, make)

    def sent_marks(self) -> tuple[SentMarks, ...]:
        """The columns that say which rows were sent."""
        found = (self._sent_marks_in(position) for position in range(len(self.sheet.columns)))
        return tuple(marks for marks in found if marks)

    def _sent_marks_in(self, position: int) -> SentMarks | None:
        reads = {position, *beside_marks(self.sheet)}
        return self.cache.kept(("sent marks", position), reads, lambda: sent_marks_in(self.sheet, position))

    def witnesses(self, position: int) -> dict[int, str]:
        """By row, the cells of a column that can witness that a text went."""
        return self.cache.kept(("witnesses", position), {position}, lambda: witnesses_in(self.sheet.values(position)))

    def shapes(self, position: int) -> Shapes:
        """What the cells of a column look like."""
        return self.cache.kept(("shapes", position), {position}, lambda: Shapes(self.sheet.values(position)))

    def odd_shapes(self, position: int) -> frozenset[int]:
        """The rows whose cell looks otherwise than nearly all others of its column."""

        def make() -> frozenset[int]:
            usual = self.shapes(position).usual
            return frozenset() if usual is None else odd_ones(self.sheet.values(position), usual)

        return self.cache.kept(("odd shapes", position), {position}, make)

    def blanks(self, position: int) -> int:
        """How many cells of a column are blank."""

        def make() -> int:
            return sum(is_blank(row[position]) for row in self.sheet.rows)

        return self.cache.kept(("blanks", position), {position}, make)

    def recognised(self, recipe: Recipe) -> tuple[Verdict, ...]:
        """The role each column seems to have, and what tells so."""
        key = ("roles", recipe.region, recipe.locale)
        return self.cache.kept(key, self._all, lambda: recognise(self.sheet, recipe.region, recipe.locale))

    def number_columns(self, recipe: Recipe) -> NumberColumns:
        """Which columns have phone numbers, and which of them texts go to; no question where somebody has said."""
        key = ("number columns", recipe.region)
        found: NumberColumns = self.cache.kept(key, self._all, lambda: numbers_in(self.sheet, recipe.region))
        roles = {settings.role for settings in recipe.columns.values()}
        if Role.MOBILE in roles:
            mine = next((i for i, role in enumerate(self.roles(recipe)) if role is Role.MOBILE), None)
            every = {*found.others, *(() if found.chosen is None else (found.chosen,))}
            return NumberColumns(mine, tuple(sorted(every - {mine})))
        told = {i for i in found.rivals if recipe.setting(self.sheet.columns[i]).role is not None}
        rivals = tuple(i for i in found.rivals if i not in told)
        return replace(found, rivals=rivals, doubtful=found.doubtful and bool(rivals or not found.rivals))

    def roles(self, recipe: Recipe) -> tuple[Role, ...]:
        """The role of each column: the one that was set, else the recognised one.

        A set mobile number takes the role from the recognised column, so that texts go to one number only.
        """
        chosen = [recipe.setting(column).role for column in self.sheet.columns]
        taken = any(settings.role is Role.MOBILE for settings in recipe.columns.values())
        return tuple(
            own or (Role.TEXT if taken and guess.role is Role.MOBILE else guess.role)
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
        return Number(problem=NO_SUCH_COUNTRY(typed=as_written(country)))
    return tidy_number(cell, named)
