"""What is done about findings at one press, for one row or for all of them; one undo takes it back."""

from fastapi import APIRouter

from gentle_ledger.app.commands.characters import CloseUp
from gentle_ledger.app.commands.findings import LeaveRowsOut, OneLinkARow
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.checks import CHECKS
from gentle_ledger.core.checks.model import Mend
from gentle_ledger.store.errors import NotThere
from gentle_ledger.web.context import Context, Here, RoundId
from gentle_ledger.web.findings.schemas import MendFinding
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk

router = APIRouter(prefix="/api/rounds/{round_id}/findings", tags=["findings"])


@router.post("/mend")
def mend_finding(here: Here, round_id: RoundId, body: MendFinding) -> Desk:
    """Leaves the rows of a finding out, closes their spaces up, or gives combined rows a link each."""
    rows = _rows(here, round_id, body)
    if body.mend is Mend.LEAVE_OUT:
        return changed_desk(here, round_id, LeaveRowsOut(version=body.version, rows=rows))
    if body.mend is Mend.ONE_LINK:
        return changed_desk(here, round_id, OneLinkARow(version=body.version))
    return changed_desk(here, round_id, CloseUp(version=body.version, rows=rows, wordings=body.row is None))


@from_the_newest
def _rows(here: Context, round_id: int, body: MendFinding) -> list[RowNumber]:
    _, opened = here.opened(round_id, preparing=True)
    offered = next((check.mends for check in CHECKS if check.key == body.check), ())
    found = [number_of_row(row) for row in here.counting.counted(opened).rows_found(body.check)]
    if body.mend not in offered or body.mend is Mend.PLAIN or not found or (body.row or found[0]) not in found:
        raise NotThere("There is no such finding any more.", "Look at the findings once more.")
    return found if body.row is None else [body.row]
