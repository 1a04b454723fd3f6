"""The command that puts a newer version of a round's sheet in the place of the one there is."""

from collections.abc import Mapping
from typing import Annotated

from pydantic import BaseModel, Field
from typing_extensions import override

from gentle_ledger.app.draft import NewerSheet, Plan
from gentle_ledger.app.edit import LongCommand
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.columns.sent_before import heeded
from gentle_ledger.core.sheets.bring_in import BroughtIn
from gentle_ledger.core.sheets.model import MAX_ROWS
from gentle_ledger.core.sheets.versions import Mended, compare, merged
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.rows import originals_of
from gentle_ledger.store.sheets import KeptRows

NEWER = reason_kind("newer sheet", "a newer version of the sheet, {file}")


class SaidOfMended(BaseModel):
    """Whether what was mended here is kept (true), or what the newer version has in its place is taken (false).

    A cell that the newer version has as it was before it was mended stays mended where nothing is said. One that is
    another one there too must be said.

    Attributes:
        cells: by row of the newer version (from 1) and column.
        rest: what counts for all cells of which nothing else is said.
        added: whether rows that were added here, and are not in the newer version, are kept.
    """

    cells: Annotated[list[tuple[RowNumber, str, bool]], Field(max_length=200_000)] = []
    rest: bool | None = None
    added: bool = True

    def by_place(self) -> Mapping[tuple[int, str], bool]:
        """What is said of single cells."""
        return {(number, column): keep for number, column, keep in self.cells}


class TakeNewer(LongCommand):
    """Takes a newer version. Rows that were left out or released stay so, and so does what was mended and is kept.

    Attributes:
        brought: the newer sheet as it was read.
        file_name: the name of its file.
        key: the column that says which row is which.
        version: the version of the round that it was compared with.
        said: what of this one is kept.
    """

    brought: BroughtIn
    file_name: str
    key: str
    version: int
    said: SaidOfMended = SaidOfMended()

    @override
    def plan(self, draft: Plan) -> Reason | None:
        if draft.found.version != self.version:
            raise NotNow("The round was changed since the versions were compared.", "Compare them once more.")
        opened, sheet = draft.opened, self.brought.sheet
        same = (sheet.columns, list(sheet.rows), sheet.hidden, self.file_name)
        here = opened.readings.sheet
        if same == (here.columns, list(here.rows), here.hidden, draft.found.file_name):
            return None
        compared = compare(here, sheet, self.key, originals_of(draft.session, draft.found))
        said = self.said.by_place()

        def keeps(cell: Mended) -> bool:
            number = number_of_row(cell.row)
            keep = said.get((number, cell.column), self.said.rest)
            if keep is None and cell.doubtful:
                raise NotNow(
                    f"{cell.column} in row {number} was mended here, and is another one in the newer version too.",
                    "Say which of the two counts.",
                    row=number,
                    column=cell.column,
                )
            return keep is not False

        found = merged(here, sheet, compared, keeps, added=self.said.added)
        if len(found.sheet.rows) > MAX_ROWS:
            raise NotNow(
                f"With the rows that were added here there would be more than {MAX_ROWS:,}.", "Leave them out."
            )
        kept = KeptRows(
            frozenset(row for row, was in enumerate(found.earlier) if was in opened.kept.left_out),
            {
                row: opened.kept.released[was]
                for row, was in enumerate(found.earlier)
                if was is not None and was in opened.kept.released
            },
        )
        reading = self.brought.reading.sentence
        draft.replace_sheet(NewerSheet(found.sheet, kept, found.originals, self.file_name, reading))
        draft.set_recipe(heeded(opened.recipe, found.sheet))
        return NEWER(file=self.file_name)
