"""The attempts: every hand-over of a text, under which reference and by which line, and what became of it."""

from datetime import datetime
from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.store.models import Attempt, LineRecord, Message


class AttemptState(StrEnum):
    """What is known of an attempt."""

    GOING = "going"
    ACCEPTED = "accepted"
    REFUSED = "refused"
    NOT_TAKEN = "not taken"
    NO_RECORD = "no record"
    OPEN = "open"


def begin_attempt(session: Session, message: Message, line: LineRecord, reference: str, at: datetime) -> int:
    """Writes down that a text is about to be handed over, before it is; the number of the attempt."""
    begun = Attempt(message_id=message.id, line_id=line.id, reference=reference, at=at, state=AttemptState.GOING)
    session.add(begun)
    session.flush()
    return begun.id


def settle_attempt(
    session: Session,
    message_id: int,
    reference: str | None,
    state: AttemptState,
    at: datetime,
    answer: str = "",
    carrier_id: str = "",
) -> None:
    """Writes down what became of the newest attempt under a reference. What was accepted stays so."""
    wanted = select(Attempt).where(Attempt.message_id == message_id, Attempt.reference == reference)
    found = session.scalars(wanted.order_by(Attempt.id.desc()).limit(1)).first()
    if found is None or found.state == AttemptState.ACCEPTED:
        return
    found.state, found.answer, found.answered_at = state, answer, at
    found.carrier_id = carrier_id or found.carrier_id


def attempts_of(session: Session, message_id: int) -> list[Attempt]:
    """Every attempt of a text, the oldest first."""
    return list(session.scalars(select(Attempt).where(Attempt.message_id == message_id).order_by(Attempt.id)))


def references_of(session: Session, message_id: int) -> dict[str, str]:
    """Every reference a text was ever handed over under, with the identity of its line; the oldest first."""
    wanted = select(Attempt.reference, LineRecord.identity).join(LineRecord, LineRecord.id == Attempt.line_id)
    found = session.execute(wanted.where(Attempt.message_id == message_id).order_by(Attempt.id))
    return {row.reference: row.identity for row in found}
