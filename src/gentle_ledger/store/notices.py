"""What of the ledger as a whole has to be looked at by somebody."""

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.reasons import Reason, reason_of
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.models import Notice


def add_notice(session: Session, reason: Reason, at: datetime) -> None:
    """Puts a notice up; one that says the same and was not seen yet stands as it is."""
    same = select(Notice.id).where(
        Notice.code == reason.code, Notice.parameters == reason.as_json(), Notice.seen_at.is_(None)
    )
    if session.scalar(same.limit(1)) is None:
        session.add(Notice(at=at, code=reason.code, parameters=reason.as_json()))


def open_notices(session: Session) -> list[tuple[int, datetime, str]]:
    """Those that nobody has looked at yet, the oldest first: the number of each, since when, and its sentence."""
    found = session.scalars(select(Notice).where(Notice.seen_at.is_(None)).order_by(Notice.id))
    return [(each.id, each.at, f"{reason_of(each.code, each.parameters).sentence}.") for each in found]


def notice_seen(session: Session, notice: int, at: datetime) -> None:
    """Somebody has looked at it. Raises NotThere."""
    found = session.get(Notice, notice)
    if found is None:
        raise NotThere("There is no such notice.")
    if found.seen_at is None:
        found.seen_at = at
