"""Many cells at once: what a block of cells would cover, pasting it, emptying and filling down."""

from fastapi import APIRouter

from gentle_ledger.app.commands.blocks import ChangeCells, PasteBlock, laid_over
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.sheets.block import Place, covered
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk
from gentle_ledger.web.rows.schemas import CoveredCell, PasteIn, PasteOut

router = APIRouter(prefix="/api/rounds/{round_id}/cells", tags=["rows"])

_SHOWN = 200
"""Cells that are shown one by one before they are covered."""
_FIRST = 3
"""Rows of the block that are shown where it covers nothing."""


@router.post("/paste/glance")
def paste_glance(here: Here, round_id: RoundId, body: PasteIn) -> PasteOut:
    """What pasting a block would do and cover; changes nothing."""
    _, opened = here.opened(round_id, preparing=True)
    sheet = opened.readings.sheet
    laid = laid_over(opened, body.text, _place(body))
    columns = sorted({at for _, at in laid.cells})
    covers = covered(sheet, laid)
    return PasteOut(
        version=opened.version,
        cells=len(laid.cells),
        added=laid.added,
        named=laid.named,
        covers=len(covers),
        covered=[
            CoveredCell(
                row=number,
                column=sheet.columns[at],
                before=as_written(sheet.rows[row_of_number(number)][at]),
                after=laid.cells[number, at],
            )
            for number, at in covers[:_SHOWN]
        ],
        lines=[
            [laid.cells.get((number, at), "") for at in columns]
            for number in sorted({row for row, _ in laid.cells})[:_FIRST]
        ],
        columns=[sheet.columns[at] for at in columns],
    )


@router.post("/paste")
def paste_block(here: Here, round_id: RoundId, body: PasteIn) -> Desk:
    """Pastes a block. What would cover something is refused until it was shown, in the version of the round then."""
    return changed_desk(here, round_id, PasteBlock(text=body.text, place=_place(body), seen=body.seen))


@router.post("")
def change_cells(here: Here, round_id: RoundId, body: ChangeCells) -> Desk:
    """Empties cells, or fills them down from the first of the rows."""
    return changed_desk(here, round_id, body)


def _place(body: PasteIn) -> Place:
    return Place(body.rows, body.columns, body.chosen, body.below, body.may_add)
