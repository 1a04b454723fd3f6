"""The command that puts a newer version of a round's sheet in the place of the one there is."""

from typing_extensions import override

from gentle_ledger.app.draft import NewerSheet, Plan
from gentle_ledger.app.edit import LongCommand
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.columns.sent_before import heeded
from gentle_ledger.core.sheets.bring_in import BroughtIn
from gentle_ledger.core.sheets.versions import compare
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.sheets import KeptRows

NEWER = reason_kind("newer sheet", "a newer version of the sheet, {file}")


class TakeNewer(LongCommand):
    """Takes a newer version. Rows that were left out or released stay so; mended cells are those of the newer one.

    Attributes:
        brought: the newer sheet as it was read.
        file_name: the name of its file.
        key: the column that says which row is which.
        version: the version of the round that it was compared with.
    """

    brought: BroughtIn
    file_name: str
    key: str
    version: int

    @override
    def plan(self, draft: Plan) -> Reason | None:
        if draft.found.version != self.version:
            raise NotNow("The round was changed since the versions were compared.", "Compare them once more.")
        opened, sheet = draft.opened, self.brought.sheet
        same = (sheet.columns, list(sheet.rows), sheet.hidden, self.file_name)
        here = opened.readings.sheet
        if same == (here.columns, list(here.rows), here.hidden, draft.found.file_name):
            return None
        compared = compare(opened.readings.sheet, sheet, self.key)
        kept = KeptRows(
            frozenset(row for row, was in enumerate(compared.earlier) if was in opened.kept.left_out),
            {
                row: opened.kept.released[was]
                for row, was in enumerate(compared.earlier)
                if was is not None and was in opened.kept.released
            },
        )
        draft.replace_sheet(NewerSheet(sheet, kept, self.file_name, self.brought.reading.sentence))
        draft.set_recipe(heeded(opened.recipe, sheet))
        return NEWER(file=self.file_name)
