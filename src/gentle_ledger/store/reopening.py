"""Texts of a started round whose rows are mended: taken out of their turn, and written down anew before they go.

What was handed over, or is being handed over, is locked. All else can be mended: what is held, not chosen or left out,
what is still to go, and what the carrier refused. A mended text goes only once somebody has confirmed it.
"""

from collections.abc import Collection, Iterable
from dataclasses import replace
from datetime import datetime
from typing import Any

from sqlalchemy import and_, func, not_, or_, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.rounds.frozen import FrozenRow
from gentle_ledger.core.rounds.marks import BEFORE, MENDED, SAME_HERE, WAITS, Mark, PlanMark
from gentle_ledger.store.attempts import AttemptState
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.freezing import texts_of_rows
from gentle_ledger.store.history import in_pieces
from gentle_ledger.store.models import Attempt, Message, Round
from gentle_ledger.store.statements import Statements, moment_as_text, statements_of
from gentle_ledger.store.steps import MarkedText, add_entry, marked_text, on_record, reasons_as_kept, step_text

_DID_NOT_GO = (AttemptState.REFUSED, AttemptState.NOT_TAKEN, AttemptState.SAID_NOT)
_GONE = (Mark.GOING, Mark.SENT, Mark.UNSURE)
_TO_THEM = (Mark.TO_GO, *_GONE)
"""The marks of texts that went, may have gone, or will go."""


def locked_rows(session: Session, round_id: int, rows: Collection[RowNumber]) -> set[RowNumber]:
    """Those of some rows (from 1) of which nothing can be changed: the texts they go in went, or may have gone."""
    wanted = select(Message.row, Message.with_row, Message.mark, Message.uncertain).where(Message.round_id == round_id)
    found = session.execute(wanted.where(Message.row.in_(rows))).all()
    tried = _tried(session, round_id, {with_row or row for row, with_row, *_ in found})
    return {row for row, with_row, mark, uncertain in found if mark in _GONE or uncertain or (with_row or row) in tried}


def _tried(session: Session, round_id: int, rows: Collection[RowNumber]) -> set[RowNumber]:
    """Those of some rows (from 1) with a hand-over of which it is not known that nothing came of it."""
    wanted = select(Message.row).join(Attempt, Attempt.message_id == Message.id)
    mine = (Message.round_id == round_id, Message.row.in_(rows))
    return set(session.scalars(wanted.where(*mine, Attempt.state.not_in(_DID_NOT_GO))))


def reopen(session: Session, found: Round, rows: Iterable[int], at: datetime) -> None:
    """Takes the texts that some mended rows (from 0) go in out of their turn: they are Held until looked at anew.

    Raises NotNow where one of them went, or may have gone.
    """
    numbers = {number_of_row(row) for row in rows}
    wanted = select(Message.row, Message.with_row).where(Message.round_id == found.id, Message.row.in_(numbers))
    bearing = {with_row or row: row for row, with_row in session.execute(wanted)}
    tried, ledger = _tried(session, found.id, bearing), statements_of(session)
    texts = select(Message.id).where(Message.round_id == found.id, Message.row.in_(bearing)).order_by(Message.row)
    for message_id in session.scalars(texts).all():
        text = marked_text(ledger, message_id)
        if text is None:
            continue
        if text.mark in _GONE or text.uncertain or text.row in tried:
            what = "is just being handed over" if text.mark == Mark.GOING else "was handed over already"
            raise NotNow(f"Row {bearing[text.row]} {what}, so nothing of it can be changed any more.")
        _take_out(ledger, text, at)
    session.expire_all()


def _take_out(ledger: Statements, text: MarkedText, at: datetime) -> None:
    # Of what never was on record the change itself is enough, which stands in the journal.
    if text.mark != Mark.HELD and on_record(ledger, text.id):
        step_text(ledger, text, Mark.HELD, at, reason=MENDED())
        return
    ledger.run(
        "UPDATE messages SET mark = ?, reason = ?, reason_code = ?, reason_parameters = ?, marked_at = ? "
        "WHERE round_id = ? AND (id = ? OR (with_row = ? AND with_row > 0))",
        *(Mark.HELD, *reasons_as_kept([MENDED()]).values(), moment_as_text(at), text.round_id, text.id, text.row),
    )


def any_mended(session: Session, round_id: int) -> bool:
    """Whether any text of a round was mended, and not looked at anew yet."""
    mended = (Message.mark == Mark.HELD, Message.reason_code == MENDED.code)
    return session.scalar(select(Message.id).where(Message.round_id == round_id, *mended).limit(1)) is not None


def how_many_mended(session: Session, round_id: int) -> int:
    """How many texts of a round were mended, and are ready."""
    mine = (Message.round_id == round_id, Message.mark == Mark.READY, Message.with_row.is_(None))
    wanted = select(func.count()).select_from(Message).where(*mine, Message.reason_code == WAITS.code)
    return session.scalar(wanted) or 0


def looked_at_anew(message: Message) -> bool:
    """Whether a text is looked at anew once something was mended: it is held, or was mended and is ready."""
    return message.mark == Mark.HELD or (message.mark == Mark.READY and message.reason_code == WAITS.code)


def other_rows(session: Session, round_id: int) -> frozenset[RowNumber]:
    """The rows (from 1) of a started round whose texts stay as they are whatever is mended."""
    # The same as `looked_at_anew`, said to the store: a long round has a hundred thousand of them.
    waits = and_(Message.mark == Mark.READY, Message.reason_code == WAITS.code)
    wanted = select(Message.row).where(Message.round_id == round_id, not_(or_(Message.mark == Mark.HELD, waits)))
    return frozenset(session.scalars(wanted))


def none_twice(session: Session, round_id: int, rows: Iterable[FrozenRow]) -> list[FrozenRow]:
    """Rows looked at anew; held where the same text went already, or is to go, to the number with another row.

    Not one that the clerk let go: that it repeats a row was said of it.
    """
    found = list(rows)
    wanted = select(Message.address, Message.text, Message.row).where(
        Message.round_id == round_id, Message.mark.in_(_TO_THEM), Message.with_row.is_(None)
    )
    there: dict[tuple[str, str], RowNumber] = {}
    for some in in_pieces(sorted({row.number for row in found if row.goes})):
        for number, text, row in session.execute(wanted.where(Message.address.in_(some))):
            there[number, text] = row
    return [
        replace(row, mark=PlanMark.HELD, reasons=(SAME_HERE(row=there[row.number, row.text]),))
        if row.mark is PlanMark.READY and row.released is None and (row.number, row.text) in there
        else row
        for row in found
    ]


_WRITTEN = (
    *("label", "address", "text", "parts", "with_row", "mark", "reason", "reason_code", "reason_parameters"),
    *("may_retry", "codes", "released", "release", "place", "moment", "zones"),
)


def write_anew(session: Session, found: Round, rows: Iterable[FrozenRow], at: datetime) -> bool:
    """Writes texts down as they are now, and says whether any is another one. What went meanwhile stays as it is."""
    now = {each["row"]: each for each in texts_of_rows(found.id, rows, (), at)}
    wanted = select(Message).where(Message.round_id == found.id, Message.mark.in_((Mark.HELD, Mark.READY)))
    changed = False
    for message in session.scalars(wanted).all():
        if message.row in now and looked_at_anew(message):
            changed |= _write_one(session, message, now[message.row], at)
    return changed


def _write_one(session: Session, message: Message, now: dict[str, Any], at: datetime) -> bool:
    if now["mark"] == Mark.READY:
        now.update(reasons_as_kept([WAITS()]))
    written = {name: now[name] for name in _WRITTEN}
    if all(getattr(message, name) == value for name, value in written.items()):
        return False
    before, other = BEFORE(text=message.text, number=message.address), (message.address, message.text)
    for name, value in written.items():
        setattr(message, name, value)
    # The next hand-over of another text has another reference.
    message.reference, message.marked_at = None, at
    session.flush()
    ledger = statements_of(session)
    if other != (message.address, message.text) and on_record(ledger, message.id):
        why = tuple(reasons_as_kept([before]).values())
        add_entry(ledger, message.id, message.mark, moment_as_text(at), why)
    return True
