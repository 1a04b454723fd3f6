"""Writing the text of any one row."""

from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Any

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.phones import NO_COLUMN, Number
from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.columns.combining import Groups
from gentle_ledger.core.columns.display import CellExplainer
from gentle_ledger.core.columns.evaluation import Column, Shown, evaluate
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.wording.parse import Field, Wording, parse_wording, unknown_fields

# A name in two columns; common practice, no source.
_FIRST = frozenset({"first", "given", "forename"})
_LAST = frozenset({"last", "surname", "family"})


_NUMBERS_TAKE = 10
"""How many times as long a number takes as a cell of another column; measured, and only for show."""


@dataclass(frozen=True, slots=True)
class Gap:
    """A field that a row cannot fill: its cell is blank, or `why` it cannot be read or, if `computed`, worked out."""

    column: str
    why: Reason | None = None
    computed: bool = False


@dataclass(frozen=True, slots=True)
class Run:
    """A stretch of a text: `column` is where it came from, None for the wording's own words.

    `gap` marks a place that could not be filled, by this row or by any; its text is then the field's name, never part
    of what is sent.
    """

    text: str
    column: str | None = None
    gap: bool = False


class Composer:
    """Writes the text of any one row: a wording bound to a sheet's columns, roles and fallbacks."""

    def __init__(
        self,
        readings: Readings,
        recipe: Recipe,
        left_out: Collection[int] = frozenset(),
        grouped: Callable[[], Groups] | None = None,
    ) -> None:
        self.readings = readings
        self.recipe = recipe
        evaluated = evaluate(readings, recipe, left_out, grouped)
        self.evaluation, self.phones = evaluated.evaluation, evaluated.phones
        self.combine_problem = evaluated.combine_problem
        self.columns = columns = evaluated.columns
        self.groups = self.evaluation.groups
        self.explainer = CellExplainer(self.evaluation)
        self.roles = columns.roles
        self.wording: Wording = parse_wording(recipe.wording)
        self.problems = (*self.wording.problems, *unknown_fields(self.wording, columns.names))
        self.mobile = next((i for i, role in enumerate(self.roles) if role is Role.MOBILE), None)
        self._pieces: list[str | int | Field] = []
        self._used: dict[int, Column] = {}
        self._fallbacks: dict[int, str | None] = {}
        for piece in self.wording.pieces:
            position = columns.position(piece.name) if isinstance(piece, Field) else None
            if position is None:
                self._pieces.append(piece)
                continue
            self._pieces.append(position)
            self._used[position] = self.evaluation.column(position)
            self._fallbacks[position] = columns.fallback(position)

    @property
    def used(self) -> list[int]:
        """Positions of the columns the wording uses."""
        return list(self._used)

    @property
    def worked_out(self) -> float:
        """Which share of what texts and numbers are made from is worked out so far, roughly, from 0 to 1."""
        entries: list[tuple[ByRow[Any], int]] = [(column.shown, 1) for column in self._used.values()]
        if self.mobile is not None:
            entries.append((self.phones.entries(self.mobile), _NUMBERS_TAKE))
        whole = sum(len(rows) * takes for rows, takes in entries)
        return sum(rows.worked_out * takes for rows, takes in entries) / whole if whole else 1.0

    def column(self, position: int) -> Column:
        """A column of the round, whether the wording uses it or not."""
        return self.evaluation.column(position)

    def label(self, row: int) -> str:
        """What a clerk calls the row: its name cells ("Farida Benali"), or "" when it has none."""
        names = [i for i, role in enumerate(self.roles) if role is Role.NAME]
        cells = [cell for i in names if isinstance(cell := self.column(i).values[row], str)]
        headers = [column_key(self.columns.names[i]).split() for i in names]
        if len(cells) > 1 and _FIRST & set(headers[0]) and _LAST & set(headers[1]):
            return f"{cells[0]} {cells[1]}"
        return cells[0] if cells else ""

    def number(self, row: int) -> Number:
        """The number that the row's text goes to, or why there is none."""
        if self.mobile is None:
            return Number(problem=NO_COLUMN())
        return self.phones.number(self.mobile, self.groups.place(row))

    def _value(self, position: int, place: int) -> Shown:
        shown, fallback = self._used[position].shown[place], self._fallbacks[position]
        # A formula that comes to no text is no gap, yet what was set for a blank stands in for it as well.
        return fallback if shown is None or (shown == "" and fallback) else shown

    def gaps(self, row: int) -> tuple[Gap, ...]:
        """The fields this row cannot fill."""
        found: tuple[Gap, ...] = ()
        place = self.groups.place(row)
        for position in self._used:
            value = self._value(position, place)
            if not isinstance(value, str):
                why = value.reason if isinstance(value, Unreadable) else None
                found += (Gap(self.columns.names[position], why, position >= self.columns.first_computed),)
        return found

    def text(self, row: int) -> str:
        """The finished text, or "" when a field cannot be filled: a text with a hole in it must not exist."""
        parts: list[str] = []
        place = self.groups.place(row)
        for piece in self._pieces:
            if isinstance(piece, str):
                parts.append(piece)
                continue
            value = None if isinstance(piece, Field) else self._value(piece, place)
            if not isinstance(value, str):
                return ""
            parts.append(value)
        return "".join(parts)

    def texts(self) -> list[str]:
        """The texts of all rows: `text(row)` for each, made column by column."""
        rows = self.groups.rows
        if any(isinstance(piece, Field) for piece in self._pieces):
            return [""] * rows
        if self.groups.members or not self._used:
            return [self.text(row) for row in range(rows)]
        finished = {position: self.evaluation.finished(position) for position in self._used}
        places = [piece for piece in self._pieces if isinstance(piece, int)]
        pattern = "".join(piece.replace("%", "%%") if isinstance(piece, str) else "%s" for piece in self._pieces)
        found = [pattern % values for values in zip(*(finished[place][0] for place in places), strict=True)]
        for _, holes in finished.values():
            for row in holes:
                found[row] = ""
        return found

    def runs(self, row: int) -> list[Run]:
        """The text stretch by stretch, gaps included; without gaps, joined it is `text(row)`."""
        found = []
        place = self.groups.place(row)
        for piece in self._pieces:
            if isinstance(piece, str):
                found.append(Run(piece))
                continue
            if isinstance(piece, Field):
                found.append(Run(piece.name, gap=True))
                continue
            column = self.columns.names[piece]
            value = self._value(piece, place)
            found.append(Run(value, column) if isinstance(value, str) else Run(column, column, gap=True))
        return found

    def column_at(self, row: int, position: int) -> str | None:
        """The column that the character at `position` of the row's text came from; None for the wording's own."""
        end = 0
        for run in self.runs(row):
            end += len(run.text)
            if position < end:
                return run.column
        return None
