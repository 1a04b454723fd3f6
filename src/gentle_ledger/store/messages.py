"""The texts of started rounds: freezing them, stepping their marks, and the ledger."""

import json
from collections import Counter
from collections.abc import Collection, Iterable
from datetime import UTC, datetime
from typing import cast

from sqlalchemy import Table, delete, func, insert, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.rounds.frozen import FrozenRow
from gentle_ledger.core.rounds.marks import (
    KEPT_BACK,
    MISSED,
    STOPPED,
    Mark,
)
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.models import LedgerEntry, Message, Round, UnknownHandOver
from gentle_ledger.store.stages import step_stage
from gentle_ledger.store.statements import Statements, statements_of
from gentle_ledger.store.steps import _OPEN, _reasons, batched, step, step_some
from gentle_ledger.store.trials import any_trial
from gentle_ledger.store.turns import zones_as_text

_INSERT_TEXT = insert(cast("Table", Message.__table__))
"""Straight into the table: nothing of the text is needed as an object."""
_BEARS_ITS_TEXT = Message.with_row.is_(None)


def freeze(
    session: Session,
    found: Round,
    frozen_rows: Iterable[FrozenRow],
    at: datetime,
    going: Iterable[FrozenRow] | None = None,
) -> None:
    """Writes down every row's number, text and mark, and starts the round. Nothing computed changes after this.

    `going` are the rows whose own texts are to be sent, where not every ready one is; the others stay Ready.
    """
    rows = list(frozen_rows)
    chosen = {frozen.row for frozen in (rows if going is None else going)}
    session.execute(
        _INSERT_TEXT,
        [
            {
                "round_id": found.id,
                "row": number_of_row(frozen.row),
                "label": frozen.label,
                "address": frozen.number,
                "text": frozen.text,
                "parts": frozen.parts,
                "with_row": None if frozen.bears == frozen.row else number_of_row(frozen.bears),
                "mark": frozen.mark.once_started(chosen=frozen.bears in chosen),
                **_reasons(frozen.reasons),
                "may_retry": False,
                "tries": 0,
                "uncertain": False,
                "codes": json.dumps(frozen.codes, ensure_ascii=False),
                "released": frozen.released.sentence if frozen.released else "",
                "release": frozen.released.as_json() if frozen.released else "{}",
                "marked_at": at,
                "place": frozen.row if frozen.place is None else frozen.place,
                "moment": None if frozen.moment is None else datetime.fromtimestamp(frozen.moment, UTC),
                "zones": zones_as_text(frozen.zones),
            }
            for frozen in rows
        ],
    )
    step_stage(found, Stage.SENDING)
    found.started_at = at


def take_back(session: Session, found: Round) -> bool:
    """Removes the frozen texts of a round of which nothing went, so that it is prepared again; False where some did.

    The store refuses to remove a text that is on record.
    """
    if anything_of(session, found.id):
        return False
    session.execute(delete(Message).where(Message.round_id == found.id))
    step_stage(found, Stage.PREPARING)
    found.started_at, found.turn = None, 0
    return True


def anything_of(session: Session, round_id: int) -> bool:
    """Whether anything of a round is on record: then a text of it was handed over, or somebody saw to one."""
    wanted = select(LedgerEntry.id).join(Message, Message.id == LedgerEntry.message_id)
    return session.scalar(wanted.where(Message.round_id == round_id).limit(1)) is not None


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
    wanted = select(Message).where(Message.address == number, _BEARS_ITS_TEXT)
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
    grouped = select(Message.mark, func.count()).where(Message.round_id == round_id).group_by(Message.mark)
    return {Mark(mark): n for mark, n in session.execute(grouped)}


def texts_of(session: Session, round_id: int) -> dict[Mark, int]:
    """How many texts have each mark; several combined rows are one text."""
    wanted = select(Message.mark, func.count()).where(Message.round_id == round_id, _BEARS_ITS_TEXT)
    return {Mark(mark): n for mark, n in session.execute(wanted.group_by(Message.mark))}


def marks_in_order(session: Session, round_id: int) -> list[Mark]:
    """The marks of the texts that go, went or failed, in the sheet's order: the strokes of the tally."""
    still = (Mark.READY, Mark.HELD, Mark.LEFT_OUT)
    wanted = select(Message.mark).where(Message.round_id == round_id, Message.mark.not_in(still), _BEARS_ITS_TEXT)
    return [Mark(mark) for mark in session.scalars(wanted.order_by(Message.row))]


def failures_of(session: Session, round_id: int) -> list[tuple[str, int, bool]]:
    """The failed texts grouped by reason: reason, how many, whether a second try may succeed."""
    wanted = select(Message.reason, Message.may_retry).where(
        Message.round_id == round_id, Message.mark == Mark.FAILED, _BEARS_ITS_TEXT
    )
    grouped = Counter((reason, bool(may)) for reason, may in session.execute(wanted))
    return [(reason, n, may) for (reason, may), n in grouped.most_common()]


def again(session: Session, found: Round, at: datetime, messages: Iterable[Message], reason: Reason) -> int:
    """Puts messages back to To go, each guarded by the mark it had, and sets the round sending. Says how many.

    Raises StepRefused when one of them has another mark by now.
    """
    ledger, n = statements_of(session), 0
    # Whoever has it tried again, or taken up although it missed its moment, wants it to leave now.
    by_kind: dict[tuple[str, bool], list[int]] = {}
    for message in messages:
        at_once = message.mark == Mark.FAILED or message.reason_code == MISSED.code
        by_kind.setdefault((message.mark, at_once), []).append(message.id)
    for (mark, at_once), ids in by_kind.items():
        for some in batched(ids):
            step_some(ledger, found.id, some, (Mark(mark), Mark.TO_GO), at, reason, at_once=at_once)
            n += len(some)
    if n:
        session.expire_all()
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


def keep_back(session: Session, round_id: int, at: datetime) -> int:
    """Leaves out what was not chosen; says how many texts these were."""
    waiting = not_chosen(session, round_id)
    for message in waiting:
        step(session, message, Mark.LEFT_OUT, at, reason=KEPT_BACK())
    return len(waiting)


def not_chosen(session: Session, round_id: int) -> list[Message]:
    """The texts that were ready when sending started, and were not among those chosen to go."""
    return with_mark(session, Mark.READY, round_id)


def bearing_rows(session: Session, round_id: int, rows: Collection[RowNumber]) -> set[RowNumber]:
    """The rows (from 1) whose texts some rows go in: themselves, or those they were combined into."""
    wanted = select(Message.row, Message.with_row).where(Message.round_id == round_id)
    bearers = {row: with_row or row for row, with_row in session.execute(wanted)}
    return {bearers[row] for row in rows if row in bearers}
