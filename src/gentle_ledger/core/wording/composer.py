"""Writing the text of any one row."""

from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Any

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.phones import NO_COLUMN, Number
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.columns.combining import Groups
from gentle_ledger.core.columns.display import CellExplainer
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.evaluation import Column
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.formulas.values import Wrong
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.wording.bound import BoundWording, Gap, Run

# A name in two columns; common practice, no source.
_FIRST = frozenset({"first", "given", "forename"})
_LAST = frozenset({"last", "surname", "family"})


_NUMBERS_TAKE = 10
"""How many times as long a number takes as a cell of another column; measured, and only for show."""


@dataclass(frozen=True, slots=True)
class Undecided:
    """Which wording is a row's cannot be said: the condition of the wording `name` comes to no answer, and `why`."""

    name: str
    why: str


Choice = int | Undecided
"""The place of a row's wording among those of the round, the last of which is for all the rest."""


class Composer:
    """Writes the text of any one row: a round's wordings bound to a sheet's columns, roles and fallbacks.

    Attributes:
        wordings: in the order in which they are tried; the last one is for all the rest.
        conditions: one for each of the others.
        choices: which wording is whose, by place.
    """

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
        self.mobile = next((i for i, role in enumerate(self.roles) if role is Role.MOBILE), None)
        self.conditions = tuple(self.evaluation.condition(each.name, each.when) for each in recipe.wordings)
        given = [(each.name, each.text) for each in recipe.wordings]
        self.wordings = tuple(
            BoundWording(name, text, self.evaluation) for name, text in (*given, (None, recipe.wording))
        )
        self._columns_used = {position: column for each in self.wordings for position, column in each.used.items()}
        self.choices = self._choices()

    def _choices(self) -> ByRow[Choice]:
        """The wording of each place: the first whose condition is true there."""
        rest, conditions = len(self.conditions), self.conditions

        def choose(place: int) -> Choice:
            for at, condition in enumerate(conditions):
                try:
                    if condition.is_true(place):
                        return at
                except Wrong as fault:
                    return Undecided(condition.name, fault.why)
            return rest

        places = len(self.groups)
        reads = frozenset[int]().union(*(condition.reads for condition in conditions))
        # A condition that cannot be used has no key by which what came of it could be found again.
        if any(condition.problem for condition in conditions):
            return ByRow(places, choose)
        key = ("choices", places, tuple((condition.name, condition.key) for condition in conditions))
        return self.readings.cache.kept(key, reads, lambda: ByRow(places, choose))

    @property
    def plain(self) -> BoundWording:
        """The wording for all the rest."""
        return self.wordings[-1]

    @property
    def used(self) -> list[int]:
        """Positions of the columns that the wordings use."""
        return list(self._columns_used)

    def choice(self, row: int) -> Choice:
        """Which wording is the row's."""
        return self.choices[self.groups.place(row)]

    def wording_of(self, row: int) -> BoundWording | None:
        """The wording of a row; None where that cannot be said."""
        choice = self.choice(row)
        return None if isinstance(choice, Undecided) else self.wordings[choice]

    @property
    def worked_out(self) -> float:
        """Which share of what texts and numbers are made from is worked out so far, roughly, from 0 to 1."""
        entries: list[tuple[ByRow[Any], int]] = [(column.shown, 1) for column in self._columns_used.values()]
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

    def gaps(self, row: int) -> tuple[Gap, ...]:
        """The fields of its own wording that this row cannot fill."""
        wording = self.wording_of(row)
        return wording.gaps(self.groups.place(row)) if wording else ()

    def text(self, row: int) -> str:
        """The finished text, or "" where it cannot be made: a text with a hole in it must not exist."""
        wording = self.wording_of(row)
        return "" if wording is None or wording.problems else wording.text(self.groups.place(row))

    def texts(self) -> list[str]:
        """The texts of all rows: `text(row)` for each, made column by column."""
        rows = range(self.groups.rows)
        if self.groups.members:
            return [self.text(row) for row in rows]
        if len(self.wordings) == 1:
            return [""] * len(rows) if self.plain.problems else self.plain.texts(rows)
        found = [""] * len(rows)
        reading: list[list[int]] = [[] for _ in self.wordings]
        for row, choice in enumerate(self.choices.whole()):
            if not isinstance(choice, Undecided):
                reading[choice].append(row)
        for wording, mine in zip(self.wordings, reading, strict=True):
            for row, text in zip(mine, () if wording.problems else wording.texts(mine), strict=False):
                found[row] = text
        return found

    def runs(self, row: int) -> list[Run]:
        """The text stretch by stretch, gaps included; without gaps, joined it is `text(row)`."""
        wording = self.wording_of(row)
        return wording.runs(self.groups.place(row)) if wording else []

    def column_at(self, row: int, position: int) -> str | None:
        """The column that the character at `position` of the row's text came from; None for the wording's own."""
        end = 0
        for run in self.runs(row):
            end += len(run.text)
            if position < end:
                return run.column
        return None
