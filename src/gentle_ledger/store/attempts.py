"""The attempts: every hand-over of a text, under which reference and by which line, and what became of it."""

from datetime import datetime
from enum import StrEnum
from typing import NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.store.models import Attempt
from gentle_ledger.store.statements import Statements, moment_as_text


class AttemptState(StrEnum):
    """What is known of an attempt."""

    GOING = "going"
    ACCEPTED = "accepted"
    REFUSED = "refused"
    NOT_TAKEN = "not taken"
    NO_RECORD = "no record"
    OPEN = "open"
    SAID_SENT = "said to have gone"
    SAID_NOT = "said not to have gone"

    @property
    def settled(self) -> bool:
        """Whether it is known that nothing more comes of it, so that nothing has to be proved."""
        return self in {AttemptState.REFUSED, AttemptState.NOT_TAKEN, AttemptState.NO_RECORD, AttemptState.SAID_NOT}


def begin_attempt(ledger: Statements, message_id: int, line_id: int, reference: str, at: datetime) -> None:
    """Writes down that a text is about to be handed over, before it is, and that its round has had its turn."""
    begun = note_attempt(ledger, message_id, line_id, reference, at, AttemptState.GOING)
    ledger.run("UPDATE rounds SET turn = ? WHERE id = (SELECT round_id FROM messages WHERE id = ?)", begun, message_id)


def note_attempt(
    ledger: Statements, message_id: int, line_id: int, reference: str, at: datetime, state: AttemptState
) -> int:
    """Writes down a hand-over of a text by a line, as far as it is known; gives its number."""
    noted = ledger.run(
        "INSERT INTO attempts (message_id, line_id, reference, at, state, carrier_id, answer, beyond_proof) "
        "VALUES (?, ?, ?, ?, ?, '', '', 0)",
        *(message_id, line_id, reference, moment_as_text(at), state),
    )
    return int(noted.lastrowid or 0)


def times_begun(ledger: Statements, reference: str) -> int:
    """How many hand-overs were begun under a reference."""
    return int(ledger.first("SELECT count(*) FROM attempts WHERE reference = ?", reference)[0])


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


def settle_open(ledger: Statements, message_id: int, state: AttemptState, at: datetime, answer: str) -> None:
    """Writes down what became of every attempt of a text of which that was not known."""
    ledger.run(
        "UPDATE attempts SET state = ?, answer = ?, answered_at = ? WHERE message_id = ? AND state IN (?, ?)",
        *(state, answer, moment_as_text(at), message_id, AttemptState.OPEN, AttemptState.GOING),
    )


class Known(NamedTuple):
    """What is known of a text under one reference, by the newest attempt that bears it.

    Attributes:
        identity: of the line.
        state: what became of it.
        at: when it was begun.
        beyond_proof: whether "no record" proves nothing of it.
    """

    identity: str
    state: AttemptState
    at: datetime
    beyond_proof: bool


def references_of(ledger: Statements, message_id: int) -> dict[str, Known]:
    """Every reference a text was ever handed over under; the oldest first."""
    wanted = (
        "SELECT a.reference, l.identity, a.state, a.at, a.beyond_proof FROM attempts a JOIN lines l "
        "ON l.id = a.line_id WHERE a.message_id = ? ORDER BY a.id"
    )
    return {
        reference: Known(identity, AttemptState(state), datetime.fromisoformat(at), bool(beyond))
        for reference, identity, state, at, beyond in ledger.rows(wanted, message_id)
    }


def put_beyond_proof(ledger: Statements, line_id: int) -> None:
    """Whoever is handing texts over by a line may do so still: of those "no record" proves nothing."""
    ledger.run("UPDATE attempts SET beyond_proof = 1 WHERE line_id = ? AND state = ?", line_id, AttemptState.GOING)
