"""The texts of started rounds: freezing them, stepping their marks, and the ledger."""

from collections import Counter
from collections.abc import Collection, Iterable
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.marks import (
    KEPT_BACK,
    MISSED,
    STOPPED,
    Mark,
)
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.freezing import STARTED
from gentle_ledger.store.models import LedgerEntry, Message, Round, UnknownHandOver
from gentle_ledger.store.stages import step_stage
from gentle_ledger.store.statements import Statements, statements_of
from gentle_ledger.store.steps import _OPEN, batched, step_some
from gentle_ledger.store.trials import any_trial

_BEARS_ITS_TEXT = Message.with_row.is_(None)


def any_to_go(session: Session, round_id: int) -> bool:
    """Whether any text of a round is to go."""
    wanted = select(Message.id).where(Message.round_id == round_id, Message.mark == Mark.TO_GO, _BEARS_ITS_TEXT)
    return session.scalar(wanted.limit(1)) is not None


def uncertain_texts(ledger: Statements) -> list[tuple[int, int, str, int | None]]:
    """The texts whose last hand-over may have gone, in the sheet's order: round, number of the message, mark, and line.

    They are Going or Unsure, or to go again.
    """
    return ledger.rows(
        "SELECT round_id, id, mark, (SELECT line_id FROM rounds WHERE rounds.id = round_id) FROM messages "
        "WHERE uncertain = 1 AND with_row IS NULL ORDER BY round_id, row"
    )


def going_by(ledger: Statements, line_id: int) -> list[int]:
    """The texts, by the number of the message, that are Going in rounds which go by a line."""
    found = ledger.rows(
        "SELECT id FROM messages WHERE uncertain = 1 AND with_row IS NULL AND mark = ? "
        "AND round_id IN (SELECT id FROM rounds WHERE line_id = ?)",
        *(Mark.GOING, line_id),
    )
    return [message_id for (message_id,) in found]


def with_mark(session: Session, mark: Mark, round_id: int | None = None) -> list[Message]:
    """The texts with that mark; rows that only go along with another one are not among them."""
    wanted = select(Message).where(Message.mark == mark, _BEARS_ITS_TEXT).order_by(Message.round_id, Message.row)
    if round_id is not None:
        wanted = wanted.where(Message.round_id == round_id)
    if mark in _OPEN:
        wanted = wanted.where(Message.uncertain)
    return list(session.scalars(wanted))


def how_many(session: Session, mark: Mark, round_id: int) -> int:
    """How many texts of a round have a mark; rows that only go along with another one are not counted."""
    wanted = select(func.count()).select_from(Message)
    return session.scalar(wanted.where(Message.round_id == round_id, Message.mark == mark, _BEARS_ITS_TEXT)) or 0


def last_entry(session: Session) -> int | None:
    """The number of the ledger's newest entry; None while nothing was ever handed over."""
    return session.scalar(select(func.max(LedgerEntry.id)))


def anything_handed_over(session: Session) -> bool:
    """Whether any text was ever handed over from this ledger, trials included."""
    if last_entry(session) is not None or any_trial(session):
        return True
    return session.scalar(select(UnknownHandOver.id).limit(1)) is not None


def texts_to(session: Session, number: str) -> list[Message]:
    """Every text to a number (E.164) over all rounds, the newest first; rows that only go along are not among them."""
    wanted = select(Message).where(Message.address == number, _BEARS_ITS_TEXT, STARTED)
    return list(session.scalars(wanted.order_by(Message.marked_at.desc())))


def message_of(session: Session, round_id: int, row: RowNumber) -> Message:
    """The text of a row (from 1) of a started round."""
    return session.scalars(select(Message).where(Message.round_id == round_id, Message.row == row)).one()


def messages_of(session: Session, round_id: int, rows: Collection[RowNumber]) -> list[Message]:
    """The texts of some rows (from 1), in the sheet's order."""
    wanted = select(Message).where(Message.round_id == round_id, Message.row.in_(rows))
    return list(session.scalars(wanted.order_by(Message.row)))


def rows_with_mark(session: Session, round_id: int, mark: str) -> list[RowNumber]:
    """The rows (from 1) of a started round with that mark."""
    return list(session.scalars(select(Message.row).where(Message.round_id == round_id, Message.mark == mark)))


def history_of(session: Session, message_id: int) -> list[LedgerEntry]:
    """What is on record of a text, the oldest first."""
    return list(
        session.scalars(select(LedgerEntry).where(LedgerEntry.message_id == message_id).order_by(LedgerEntry.id))
    )


def counts_of(session: Session, round_id: int) -> dict[Mark, int]:
    """How many rows have each mark."""
    grouped = select(Message.mark, func.count()).where(Message.round_id == round_id, STARTED).group_by(Message.mark)
    return {Mark(mark): n for mark, n in session.execute(grouped)}


def texts_of(session: Session, round_id: int) -> dict[Mark, int]:
    """How many texts have each mark; several combined rows are one text."""
    wanted = select(Message.mark, func.count()).where(Message.round_id == round_id, _BEARS_ITS_TEXT, STARTED)
    return {Mark(mark): n for mark, n in session.execute(wanted.group_by(Message.mark))}


def marks_in_order(session: Session, round_id: int) -> list[Mark]:
    """The marks of the texts that go, went or failed, in the sheet's order: the strokes of the tally."""
    still = (Mark.READY, Mark.HELD, Mark.LEFT_OUT)
    wanted = select(Message.mark).where(
        Message.round_id == round_id, Message.mark.not_in(still), _BEARS_ITS_TEXT, STARTED
    )
    return [Mark(mark) for mark in session.scalars(wanted.order_by(Message.row))]


def failures_of(session: Session, round_id: int) -> list[tuple[str, int, bool]]:
    """The failed texts grouped by reason: reason, how many, whether a second try may succeed."""
    wanted = select(Message.reason, Message.may_retry).where(
        Message.round_id == round_id, Message.mark == Mark.FAILED, _BEARS_ITS_TEXT
    )
    grouped = Counter((reason, bool(may)) for reason, may in session.execute(wanted))
    return [(reason, n, may) for (reason, may), n in grouped.most_common()]


class Again(NamedTuple):
    """A text that is to go after all: its number, the mark it has, and whether it leaves without waiting."""

    id: int
    mark: str
    at_once: bool


def as_again(message: Message) -> Again:
    """A text that is to go after all. One that failed, or missed its moment, is wanted to leave now."""
    at_once = message.mark == Mark.FAILED or message.reason_code == MISSED.code
    return Again(message.id, message.mark, at_once)


def again(session: Session, found: Round, at: datetime, messages: Iterable[Message], reason: Reason) -> int:
    """The same as `put_again` for who has the texts as objects of a session."""
    return put_again(session, found, at, map(as_again, messages), reason)


def put_again(session: Session, found: Round, at: datetime, texts: Iterable[Again], reason: Reason) -> int:
    """Puts texts back to To go, each guarded by the mark it had, and sets the round sending. Says how many.

    Raises StepRefused when one of them has another mark by now.
    """
    ledger, n = statements_of(session), 0
    by_kind: dict[tuple[str, bool], list[int]] = {}
    for text in texts:
        by_kind.setdefault((text.mark, text.at_once), []).append(text.id)
    for (mark, at_once), ids in by_kind.items():
        for some in batched(ids):
            step_some(ledger, found.id, some, (Mark(mark), Mark.TO_GO), at, reason, at_once=at_once)
            n += len(some)
    if n:
        session.expire_all()
        if found.stage == Stage.PAUSED:
            # Paused while the last of many were put back: why stands there.
            return n
        if found.stage != Stage.SENDING:
            step_stage(found, Stage.SENDING)
        found.finished_at = None
        found.note = ""
    return n


def may_be_tried_again(session: Session, round_id: int) -> list[Message]:
    """The failed texts that may succeed at a second try."""
    return [message for message in with_mark(session, Mark.FAILED, round_id) if message.may_retry]


def stopped_before_turn(session: Session, round_id: int) -> list[Message]:
    """The texts that Stop left out, or the clerk once the others had gone."""
    codes = {STOPPED.code, KEPT_BACK.code, MISSED.code}
    return [message for message in with_mark(session, Mark.LEFT_OUT, round_id) if message.reason_code in codes]


def not_chosen(session: Session, round_id: int) -> list[Message]:
    """The texts that were ready when sending started, and were not among those chosen to go."""
    return with_mark(session, Mark.READY, round_id)


def bearing_rows(session: Session, round_id: int, rows: Collection[RowNumber]) -> set[RowNumber]:
    """The rows (from 1) whose texts some rows go in: themselves, or those they were combined into."""
    wanted = select(Message.row, Message.with_row).where(Message.round_id == round_id)
    bearers = {row: with_row or row for row, with_row in session.execute(wanted)}
    return {bearers[row] for row in rows if row in bearers}
