"""A round while one command changes it: what is done is noted, so that it can be undone."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy.orm import Session
from typing_extensions import override

from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.cell import Cell, same_cell
from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.checks.release import Release
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sheets.versions import Originals
from gentle_ledger.store.effects import (
    CellsEffect,
    Effect,
    FlagEffect,
    RecipeEffect,
    ReleaseEffect,
    RowEffect,
    Touched,
)
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.models import Round
from gentle_ledger.store.releases import release_to_json
from gentle_ledger.store.rounds import recipe_of, set_recipe
from gentle_ledger.store.rows import release_now
from gentle_ledger.store.sheets import KeptRows


@dataclass
class Draft:
    """What a command works on; all that is done is written at once.

    Attributes:
        session: the transaction.
        found: the round in it.
        opened: the round as it was before.
        at: now.
        effects: what was done so far.
        touched: what of the sheet it concerns.
    """

    session: Session
    found: Round
    opened: OpenRound
    at: datetime
    effects: list[Effect] = field(default_factory=list)
    touched: Touched = field(default_factory=Touched)

    @property
    def recipe(self) -> Recipe:
        """The set-up as it is before the command."""
        return self.opened.recipe

    @property
    def rows(self) -> int:
        """How many rows there are, with those that were added."""
        added = sum(effect.rows for effect in self.effects if isinstance(effect, RowEffect))
        return len(self.opened.readings.sheet.rows) + added

    def said(self, what: Reason) -> Reason | None:
        """What was done, if anything was."""
        return what if self.effects else None

    def set_recipe(self, recipe: Recipe) -> None:
        """Makes the set-up another one; one that is the same is no change."""
        before = recipe_of(self.found)
        if recipe != before:
            set_recipe(self.found, recipe)
            self.effects.append(RecipeEffect.between(before, recipe))

    def mend(self, cells: Mapping[tuple[RowNumber, int], Cell]) -> None:
        """Gives cells another content, by row (from 1) and column (from 0). Raises NotThere, or NotNow."""
        sheet, blank = self.opened.readings.sheet, (None,) * len(self.opened.readings.sheet.columns)
        rows, changes = self.rows, list[tuple[RowNumber, int, Cell, Cell]]()
        for (number, column), cell in cells.items():
            if not 1 <= number <= rows:
                raise NotThere(f"There is no row {number} in this round.", row=number)
            stands = (sheet.rows[row_of_number(number)] if number <= len(sheet.rows) else blank)[column]
            if not same_cell(stands, cell):
                changes.append((number, column, stands, cell))
        if changes:
            self._do(CellsEffect(changes))

    def add_rows(self, rows: int = 1) -> RowNumber:
        """Adds blank rows at the end; gives the number of the first. Raises NotNow."""
        number = number_of_row(self.rows)
        self._do(RowEffect(number, rows))
        return number

    def leave_out(self, rows: Sequence[RowNumber], out: bool) -> list[RowNumber]:
        """Leaves rows (from 1) out, or takes them back; gives those that were otherwise before. Raises NotThere."""
        for number in rows:
            if not 1 <= number <= self.rows:
                raise NotThere(f"There is no row {number} in this round.", row=number)
        left = self.opened.kept.left_out
        changes = [number for number in dict.fromkeys(rows) if (row_of_number(number) in left) is not out]
        if changes:
            self._do(FlagEffect("left_out", changes, out))
        return changes

    def release(self, row: RowNumber, release: Release | None) -> None:
        """Lets a row (from 1) go, or holds it again. Raises NotThere."""
        before = release_now(self.session, self.found, row)
        after = None if release is None else release_to_json(release)
        if before != after:
            self._do(ReleaseEffect(row, before, after))

    def _do(self, effect: Effect) -> None:
        effect.apply(self.session, self.found, self.touched, back=False)
        self.effects.append(effect)


@dataclass(frozen=True, slots=True)
class NewerSheet:
    """A newer version of a round's sheet, which of its rows stay left out or released, and what in it was kept of this
    one: its rows with cells that were mended, as they were brought in.
    """

    sheet: Sheet
    kept: KeptRows
    originals: Originals
    file_name: str
    reading: str


@dataclass
class Plan(Draft):
    """The same for a command that may write many rows: nothing is written yet, all of it is only noted.

    Attributes:
        newer: the sheet that takes the place of this one, if one does.
    """

    newer: NewerSheet | None = None

    @override
    def set_recipe(self, recipe: Recipe) -> None:
        if recipe != self.recipe:
            self.effects.append(RecipeEffect.between(self.recipe, recipe))

    def replace_sheet(self, newer: NewerSheet) -> None:
        """Puts a newer version of the sheet in the place of this one."""
        self.newer = newer

    @override
    def _do(self, effect: Effect) -> None:
        self.effects.append(effect)
