"""Which texts of a round were looked at, each as it was then."""

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import RowNumber, row_of_number
from gentle_ledger.store.models import LookedAtRow


def looked_at(session: Session, round_id: int) -> dict[int, str]:
    """The fingerprints of what was looked at, by row (from 0)."""
    wanted = select(LookedAtRow.row, LookedAtRow.fingerprint).where(LookedAtRow.round_id == round_id)
    return {row_of_number(row): kept for row, kept in session.execute(wanted)}


def keep_looked_at(session: Session, round_id: int, row: RowNumber, fingerprint: str, at: datetime) -> None:
    """Notes that the text of a row (from 1) was looked at as it is."""
    session.merge(LookedAtRow(round_id=round_id, row=row, fingerprint=fingerprint, at=at))


def forget_looked_at(session: Session, round_id: int, row: RowNumber) -> None:
    """Asks for another look at a row (from 1)."""
    found = session.get(LookedAtRow, (round_id, row))
    if found is not None:
        session.delete(found)
