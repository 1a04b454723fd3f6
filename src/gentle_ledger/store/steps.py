"""The one way a mark changes: guarded by the mark it had, and entered in the ledger in the same transaction."""

from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import NamedTuple

from sqlalchemy.orm import Session

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.frozen import RELEASED
from gentle_ledger.core.rounds.marks import (
    ALLOWED,
    FIRST_TRY_OPEN,
    KEPT_BACK,
    SAID_NOT_SENT,
    SAID_SENT,
    STOPPED,
    Mark,
)
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.attempts import AttemptState, settle_open
from gentle_ledger.store.models import Message
from gentle_ledger.store.statements import Statements, moment_as_text, statements_of

_OPEN = frozenset({Mark.GOING, Mark.UNSURE})
"""The marks of texts that may have gone; their rows are `uncertain`, which an index finds in a ledger of any length."""


class StepRefused(LedgerError):
    """A mark was asked to take a step it may not, or another hand was faster."""

    kind = "step refused"
    status = 409


def reasons_as_kept(reasons: Sequence[Reason]) -> dict[str, str]:
    """Reasons as the columns of a message or an entry: the sentences of all, code and parameters of the first."""
    first = reasons[0] if reasons else Reason("")
    return {
        "reason": "; ".join(reason.sentence for reason in reasons),
        "reason_code": first.code,
        "reason_parameters": first.as_json(),
    }


class MarkedText(NamedTuple):
    """What of a text must be known for a step of its mark; see `Message`."""

    id: int
    round_id: int
    row: RowNumber
    mark: str
    address: str
    text: str
    reference: str | None
    tries: int
    uncertain: int
    released: str
    release: str


def marked_text(ledger: Statements, message_id: int) -> MarkedText | None:
    """A text as it is now; None where there is none any more."""
    found = ledger.first(
        "SELECT id, round_id, row, mark, address, text, reference, tries, uncertain, released, release "
        "FROM messages WHERE id = ?",
        message_id,
    )
    return MarkedText(*found) if found else None


def step(session: Session, message: Message, to: Mark, at: datetime, *, reason: Reason | None = None) -> None:
    """The same as `step_text` for who has the text as an object of a session."""
    step_text(statements_of(session), message, to, at, reason=reason)
    session.refresh(message)


def step_text(
    ledger: Statements,
    text: Message | MarkedText,
    to: Mark,
    at: datetime,
    *,
    reason: Reason | None = None,
    may_retry: bool = False,
    reference: str | None = None,
    line: str | None = None,
    uncertain: bool = False,
    no_try: bool = False,
) -> None:
    """The one way a mark changes: guarded by the mark it had, and entered in the ledger in the same transaction.

    `uncertain`: an earlier hand-over may have gone; always so of Going and Unsure. `no_try`: it never left this
    machine, and does not count as a try.
    Raises StepRefused when there is no such step, or when the mark is no longer what `text` says.
    """
    before = Mark(text.mark)
    if (before, to) not in ALLOWED:
        raise StepRefused(f"Row {text.row} is {before} and cannot become {to}.", row=text.row)
    if to is Mark.GOING and text.released:
        _record_release(ledger, text, at)
    kept, moment = reference or text.reference, moment_as_text(at)
    why = tuple(reasons_as_kept([reason] if reason else []).values())
    tries = text.tries + (to is Mark.GOING) - no_try
    changed = ledger.run(
        "UPDATE messages SET mark = ?, reason = ?, reason_code = ?, reason_parameters = ?, reference = ?, "
        "marked_at = ?, may_retry = ?, tries = ?, uncertain = ? WHERE id = ? AND mark = ?",
        *(to, *why, kept, moment, may_retry, tries, uncertain or to in _OPEN, text.id, before),
    )
    if changed.rowcount != 1:
        raise StepRefused(f"Row {text.row} has changed its mark meanwhile.", row=text.row)
    ledger.run(
        # The last condition lets the index of the rows that follow be used, which leaves out all others.
        "UPDATE messages SET mark = ?, reason = ?, reason_code = ?, reason_parameters = ?, reference = ?, "
        "marked_at = ? WHERE round_id = ? AND with_row = ? AND with_row > 0",
        *(to, *why, kept, moment, text.round_id, text.row),
    )
    add_entry(ledger, text.id, to, moment, why, kept, line)


def on_record(ledger: Statements, message_id: int) -> bool:
    """Whether anything of a text stands in the ledger."""
    return ledger.first("SELECT 1 FROM ledger WHERE message_id = ? LIMIT 1", message_id) is not None


def _record_release(ledger: Statements, text: Message | MarkedText, at: datetime) -> None:
    """That a row was let go, and why, stands in the ledger before its text does."""
    said = "SELECT 1 FROM ledger WHERE message_id = ? AND reason_code = ? AND reason = ?"
    if ledger.first(said, text.id, RELEASED.code, text.released):
        return
    why = (text.released, RELEASED.code, text.release)
    add_entry(ledger, text.id, text.mark, moment_as_text(at), why)


def add_entry(
    ledger: Statements,
    message_id: int,
    mark: str,
    moment: str,
    why: tuple[str, ...],
    reference: str | None = None,
    line: str | None = None,
) -> None:
    """Adds a line to the lasting record; `why` is a reason as its columns, see `reasons_as_kept`."""
    ledger.run(
        "INSERT INTO ledger (at, message_id, mark, reason, reason_code, reason_parameters, reference, line) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        *(moment, message_id, mark, *why, reference, line),
    )


_PIECE = 500
"""Texts that take a step together: some hundredths of a second, for which nobody else can write."""


def batched(ids: Sequence[int]) -> Iterator[Sequence[int]]:
    """Numbers of messages in pieces of as many as take a step together."""
    for start in range(0, len(ids), _PIECE):
        yield ids[start : start + _PIECE]


def step_some(
    ledger: Statements,
    round_id: int,
    ids: Sequence[int],
    step: tuple[Mark, Mark],
    at: datetime,
    reason: Reason,
    *,
    at_once: bool = False,
) -> None:
    """The same step as `step_text` for several texts of a round at once, none of which may have gone.

    `at_once` has each leave without waiting for its own moment. Raises StepRefused when one of them has another mark
    by now.
    """
    before, to = step
    if step not in ALLOWED:
        raise StepRefused(f"A text that is {before} cannot become {to}.")
    slots, moment = ", ".join("?" * len(ids)), moment_as_text(at)
    why = tuple(reasons_as_kept([reason]).values())
    ledger.run(
        "INSERT INTO ledger (at, message_id, mark, reason, reason_code, reason_parameters, reference, line) "
        f"SELECT ?, id, ?, ?, ?, ?, reference, NULL FROM messages WHERE id IN ({slots}) ORDER BY row",
        *(moment, to, *why, *ids),
    )
    ledger.run(
        "UPDATE messages SET mark = ?, reason = ?, reason_code = ?, reason_parameters = ?, marked_at = ? "
        f"WHERE round_id = ? AND with_row > 0 AND with_row IN (SELECT row FROM messages WHERE id IN ({slots}))",
        *(to, *why, moment, round_id, *ids),
    )
    changed = ledger.run(
        "UPDATE messages SET mark = ?, reason = ?, reason_code = ?, reason_parameters = ?, marked_at = ?, "
        f"may_retry = 0, uncertain = 0{', moment = NULL' if at_once else ''} "
        f"WHERE id IN ({slots}) AND mark = ? AND uncertain = 0",
        *(to, *why, moment, *ids, before),
    )
    if changed.rowcount != len(ids):
        raise StepRefused("Some of the texts have changed their mark meanwhile.", "Look once more.")


def leave_some_out(ledger: Statements, round_id: int, at: datetime) -> bool:
    """Leaves out a piece of what has not gone of a round that was stopped; False where nothing is left to be."""
    found = ledger.rows(
        f"SELECT id, uncertain FROM messages WHERE round_id = ? AND mark = '{Mark.TO_GO}' AND with_row IS NULL "
        "ORDER BY row LIMIT ?",
        *(round_id, _PIECE),
    )
    sure = [message_id for message_id, uncertain in found if not uncertain]
    if sure:
        step_some(ledger, round_id, sure, (Mark.TO_GO, Mark.LEFT_OUT), at, STOPPED())
    for message_id, uncertain in found:
        if uncertain and (text := marked_text(ledger, message_id)) is not None:
            leave_out(ledger, text, at, STOPPED(), FIRST_TRY_OPEN())
    return bool(found)


def keep_some_back(ledger: Statements, round_id: int, at: datetime) -> bool:
    """Leaves out a piece of what was not chosen when a round started; False where nothing is left to be."""
    found = ledger.rows(
        f"SELECT id FROM messages WHERE round_id = ? AND mark = '{Mark.READY}' AND with_row IS NULL "
        "AND EXISTS (SELECT 1 FROM rounds WHERE rounds.id = round_id AND stage <> ?) ORDER BY row LIMIT ?",
        *(round_id, Stage.PREPARING, _PIECE),
    )
    if found:
        step_some(
            ledger, round_id, [message_id for (message_id,) in found], (Mark.READY, Mark.LEFT_OUT), at, KEPT_BACK()
        )
    return bool(found)


def leave_out(ledger: Statements, text: Message | MarkedText, at: datetime, reason: Reason, if_open: Reason) -> None:
    """Leaves out a text that was to go. One whose first try may have gone is Unsure instead, and is asked about."""
    if text.uncertain:
        step_text(ledger, text, Mark.UNSURE, at, reason=if_open)
    else:
        step_text(ledger, text, Mark.LEFT_OUT, at, reason=reason)


def settle_by_hand(ledger: Statements, text: Message | MarkedText, at: datetime, why: str, *, went: bool) -> None:
    """Settles an Unsure text by somebody's word: it is Sent, or Failed and can be tried again under a new reference."""
    to, reason = (Mark.SENT, SAID_SENT(why=why)) if went else (Mark.FAILED, SAID_NOT_SENT(why=why))
    step_text(ledger, text, to, at, reason=reason, may_retry=not went)
    settle_open(ledger, text.id, AttemptState.SAID_SENT if went else AttemptState.SAID_NOT, at, why)


def no_doubt(ledger: Statements, text: MarkedText) -> None:
    """The first try of a text that is to go again surely did not go."""
    ledger.run("UPDATE messages SET uncertain = 0 WHERE id = ? AND mark = ?", text.id, Mark.TO_GO)


def say_why(ledger: Statements, text: MarkedText, reason: Reason) -> None:
    """Another reason for the mark that a text has, and those that go along with it."""
    why = tuple(reasons_as_kept([reason]).values())
    ledger.run(
        "UPDATE messages SET reason = ?, reason_code = ?, reason_parameters = ? WHERE round_id = ? "
        "AND (id = ? OR (with_row = ? AND with_row > 0))",
        *(*why, text.round_id, text.id, text.row),
    )
