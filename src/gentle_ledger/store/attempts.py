"""The attempts: every hand-over of a text, under which reference and by which line, and what became of it."""

from datetime import datetime
from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.store.models import Attempt, LineRecord
from gentle_ledger.store.statements import Statements, moment_as_text


class AttemptState(StrEnum):
    """What is known of an attempt."""

    GOING = "going"
    ACCEPTED = "accepted"
    REFUSED = "refused"
    NOT_TAKEN = "not taken"
    NO_RECORD = "no record"
    OPEN = "open"


def begin_attempt(ledger: Statements, message_id: int, line_id: int, reference: str, at: datetime) -> None:
    """Writes down that a text is about to be handed over, before it is, and that its round has had its turn."""
    begun = ledger.run(
        "INSERT INTO attempts (message_id, line_id, reference, at, state, carrier_id, answer) "
        "VALUES (?, ?, ?, ?, ?, '', '')",
        *(message_id, line_id, reference, moment_as_text(at), AttemptState.GOING),
    )
    ledger.run(
        "UPDATE rounds SET turn = ? WHERE id = (SELECT round_id FROM messages WHERE id = ?)",
        *(begun.lastrowid, message_id),
    )


def settle_attempt(
    ledger: Statements,
    message_id: int,
    reference: str | None,
    state: AttemptState,
    at: datetime,
    answer: str = "",
    carrier_id: str = "",
) -> None:
    """Writes down what became of the newest attempt under a reference. What was accepted stays so."""
    ledger.run(
        "UPDATE attempts SET state = ?, answer = ?, answered_at = ?, carrier_id = coalesce(nullif(?, ''), carrier_id) "
        "WHERE id = (SELECT max(id) FROM attempts WHERE message_id = ? AND reference = ?) AND state != ?",
        *(state, answer, moment_as_text(at), carrier_id, message_id, reference, AttemptState.ACCEPTED),
    )


def attempts_of(session: Session, message_id: int) -> list[Attempt]:
    """Every attempt of a text, the oldest first."""
    return list(session.scalars(select(Attempt).where(Attempt.message_id == message_id).order_by(Attempt.id)))


def references_of(session: Session, message_id: int) -> dict[str, str]:
    """Every reference a text was ever handed over under, with the identity of its line; the oldest first."""
    wanted = select(Attempt.reference, LineRecord.identity).join(LineRecord, LineRecord.id == Attempt.line_id)
    found = session.execute(wanted.where(Attempt.message_id == message_id).order_by(Attempt.id))
    return {row.reference: row.identity for row in found}
