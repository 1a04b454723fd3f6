"""Commands about many cells at once: pasting a block, emptying what is chosen, and filling down."""

from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import Field
from typing_extensions import override

from gentle_ledger.app.draft import Draft, Plan
from gentle_ledger.app.edit import LongCommand
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.cell import Cell, words_of
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber, row_of_number
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.sheets.block import MOST_CELLS, Laid, Place, cells_of_block, covered, lay
from gentle_ledger.core.sheets.model import MAX_ROWS, Sheet
from gentle_ledger.store.errors import NotThere


def _pasted(cells: int, added: int) -> str:
    words = f"pasting {count(cells, 'cell')}"
    return f"{words}, with {count(added, 'new row')}" if added else words


PASTED = reason_kind("cells pasted", _pasted)
EMPTIED = reason_kind("cells emptied", lambda cells: f"emptying {count(cells, 'cell')}")
FILLED = reason_kind("cells filled down", lambda cells: f"filling {count(cells, 'cell')} down")


class WouldCover(LedgerError):
    """What is to be pasted would cover what stands there, and that was not shown yet."""

    kind = "see first"
    status = 409


class PasteBlock(LongCommand):
    """Pastes a block of cells, as new rows where it goes below the last one.

    Attributes:
        text: tab-separated, as spreadsheets copy it.
        place: where it goes.
        seen: the version of the round in which it was shown what it covers; None where it was not shown.
    """

    text: str
    place: Place
    seen: int | None = None

    @override
    def plan(self, draft: Plan) -> Reason | None:
        sheet = draft.opened.readings.sheet
        laid = laid_over(draft.opened, self.text, self.place)
        if (covers := len(covered(sheet, laid))) and self.seen != draft.found.version:
            raise WouldCover(f"This covers {count(covers, 'cell')}.", "Look at what it covers and paste it then.")
        if laid.added:
            draft.add_rows(laid.added)
        cells = {place: typed or None for place, typed in laid.cells.items()}
        changed = _mend(draft, sheet, cells)
        return draft.said(PASTED(cells=changed, added=laid.added))


class ChangeCells(LongCommand):
    """Empties the chosen cells, or fills them down with what stands in the first of the chosen rows.

    Columns that are worked out stay as they are, and so do the cells that are to be spared, by row and column.
    """

    act: Literal["empty", "fill"]
    rows: list[RowNumber] = Field(min_length=1, max_length=MAX_ROWS)
    columns: list[str] = Field(min_length=1, max_length=10_000)
    spare: list[tuple[RowNumber, str]] = Field(default_factory=list, max_length=1_000)

    @override
    def plan(self, draft: Plan) -> Reason | None:
        sheet = draft.opened.readings.sheet
        _refuse_strange(draft.opened, self.rows, self.columns)
        own = [at for name in self.columns if (at := sheet.position(name)) is not None]
        if not own:
            raise NotUsable(f"{self.columns[0]} is worked out, so its cells cannot be changed.", "Change its formula.")
        if len(own) * len(self.rows) > MOST_CELLS:
            raise NotUsable(f"At most {MOST_CELLS:,} cells can be changed at once.", "Choose fewer rows.")
        first, *others = self.rows
        spared = {(number, sheet.position(name)) for number, name in self.spare}
        if self.act == "empty":
            changed = _mend(
                draft, sheet, {(number, at): None for number in self.rows for at in own if (number, at) not in spared}
            )
            return draft.said(EMPTIED(cells=changed))
        above = sheet.rows[row_of_number(first)]
        filled = {(number, at): above[at] for number in others for at in own if (number, at) not in spared}
        changed = _mend(draft, sheet, filled)
        return draft.said(FILLED(cells=changed))


def laid_over(opened: OpenRound, text: str, place: Place) -> Laid:
    """What becomes of which cell when a block is pasted. Raises NotThere, NotUsable, and what `lay` raises."""
    _refuse_strange(opened, place.rows, place.columns)
    return lay(opened.readings.sheet, cells_of_block(text), place)


def _refuse_strange(opened: OpenRound, rows: Sequence[RowNumber], columns: Sequence[str]) -> None:
    """Raises NotThere for a row that the round does not have, NotUsable for a column."""
    sheet, names = opened.readings.sheet, opened.composer.columns.names
    for number in rows:
        if not 1 <= number <= len(sheet.rows):
            raise NotThere(f"There is no row {number} in this round.", row=number)
    for name in columns:
        if sheet.position(name) is None and name not in names:
            raise NotUsable(f'There is no column "{name}".', column=name)


def _mend(draft: Draft, sheet: Sheet, cells: Mapping[tuple[RowNumber, int], Cell]) -> int:
    """Changes the cells in which something else stands; a figure that is pasted over itself stays a figure."""
    changes = {
        (number, at): cell
        for (number, at), cell in cells.items()
        if number > len(sheet.rows) or words_of(sheet.rows[row_of_number(number)][at]) != words_of(cell)
    }
    draft.mend(changes)
    return len(changes)
