"""A round while one command changes it: what is done is written at once, and noted so that it can be undone."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy.orm import Session

from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.cell import Cell, same_cell
from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.checks.release import Release
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.store.journal import (
    CellsEffect,
    Effect,
    FlagEffect,
    RecipeEffect,
    ReleaseEffect,
    RowEffect,
    SheetEffect,
    Touched,
)
from gentle_ledger.store.models import Round
from gentle_ledger.store.releases import release_to_json
from gentle_ledger.store.rounds import KeptRows, recipe_of, set_recipe
from gentle_ledger.store.rows import flagged, release_now, replace_sheet, rows_now


@dataclass
class Draft:
    """What a command works on.

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
        stand = rows_now(self.session, self.found, {number for number, _ in cells})
        changes = [
            (number, column, stand[number][column], cell)
            for (number, column), cell in cells.items()
            if not same_cell(stand[number][column], cell)
        ]
        if changes:
            self._do(CellsEffect(changes))

    def add_rows(self, rows: int = 1) -> RowNumber:
        """Adds blank rows at the end; gives the number of the first. Raises NotNow."""
        number = number_of_row(self.found.row_count)
        self._do(RowEffect(number, rows))
        return number

    def flag(self, name: str, rows: Sequence[RowNumber], value: bool) -> list[RowNumber]:
        """Sets a flag of rows (from 1), `left_out`; gives those that were otherwise before. Raises NotThere."""
        changes = flagged(self.session, self.found, name, rows, value)
        if changes:
            self._do(FlagEffect(name, changes, value))
        return changes

    def release(self, row: RowNumber, release: Release | None) -> None:
        """Lets a row (from 1) go, or holds it again. Raises NotThere."""
        before = release_now(self.session, self.found, row)
        after = None if release is None else release_to_json(release)
        if before != after:
            self._do(ReleaseEffect(row, before, after))

    def replace_sheet(self, sheet: Sheet, kept: KeptRows, file_name: str, reading: str) -> None:
        """Puts a newer version of the sheet in the place of this one."""
        number = replace_sheet(self.session, self.found, sheet, kept, file_name, reading)
        self.touched.rows = True
        self.effects.append(SheetEffect(number))

    def _do(self, effect: Effect) -> None:
        effect.apply(self.session, self.found, self.touched, back=False)
        self.effects.append(effect)
