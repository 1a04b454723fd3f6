"""Trials: a row's real text to a number of the clerk's own. They are on record here, and in no row's history."""

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import LedgerEntry, Trial
from gentle_ledger.store.statements import Statements

IN_A_ROW = 10
"""Trials on one civil day that may follow each other without a text of a round between them."""
_OPEN = (Mark.TO_GO, Mark.GOING)
ALLOWED: frozenset[tuple[Mark, Mark]] = frozenset(
    {
        (Mark.TO_GO, Mark.GOING),
        # The carrier did not take it, for a reason of its own.
        (Mark.GOING, Mark.TO_GO),
        (Mark.GOING, Mark.SENT),
        (Mark.GOING, Mark.FAILED),
        (Mark.GOING, Mark.UNSURE),
        # It is not handed over at all.
        (Mark.TO_GO, Mark.FAILED),
        # A copy of the ledger was put back, and nobody can say whether it was handed over since.
        (Mark.TO_GO, Mark.UNSURE),
    }
)
"""Every step of a trial. Nothing leads out of Unsure: whoever holds the handset sees whether it came."""


def ask_for_trial(
    session: Session, round_id: int, row: RowNumber, number: str, text: str, parts: int, at: datetime
) -> Trial:
    """Puts a text down to be handed over to a number (E.164) of the clerk's own.

    Raises NotNow when the same text is on its way there already, or when too many followed each other.
    """
    same = select(Trial.id).where(Trial.address == number, Trial.text == text, Trial.mark.in_(_OPEN))
    if session.scalar(same) is not None:
        raise NotNow("This text is on its way to that number already.", "Wait for it.")
    if trials_left(session, at) == 0:
        raise NotNow(
            f"{IN_A_ROW} trials followed each other today, which is as many as may.",
            "Send the round, or some rows of it; tomorrow there can be others.",
        )
    found = Trial(
        round_id=round_id, row=row, address=number, text=text, parts=parts, mark=Mark.TO_GO, asked_at=at, marked_at=at
    )
    session.add(found)
    session.flush()
    return found


def trials_left(session: Session, at: datetime) -> int:
    """How many trials may still follow those of the civil day of `at`, counted from the last text of a round."""
    midnight = at.replace(hour=0, minute=0, second=0, microsecond=0)
    newest = select(LedgerEntry.at).where(LedgerEntry.mark == Mark.GOING).order_by(LedgerEntry.id.desc())
    last = session.scalar(newest.limit(1))
    since = midnight if last is None else max(midnight, last)
    made = session.scalar(select(func.count()).select_from(Trial).where(Trial.asked_at > since))
    return max(0, IN_A_ROW - (made or 0))


def open_trials(session: Session) -> list[Trial]:
    """Those that are to go, or are being handed over, the oldest first."""
    return list(session.scalars(select(Trial).where(Trial.mark.in_(_OPEN)).order_by(Trial.id)))


def any_open_trial(ledger: Statements) -> bool:
    """Whether there is any of those."""
    return ledger.first(f"SELECT 1 FROM trials WHERE mark IN ('{Mark.TO_GO}', '{Mark.GOING}')") is not None


def trials_of(session: Session, round_id: int) -> list[Trial]:
    """Every trial of a round's texts, the newest first."""
    return list(session.scalars(select(Trial).where(Trial.round_id == round_id).order_by(Trial.id.desc())))


def own_number(session: Session) -> str:
    """The number (E.164) that the last trial went to; "" before the first."""
    return session.scalar(select(Trial.address).order_by(Trial.id.desc()).limit(1)) or ""


def was_tried(session: Session, number: str) -> bool:
    """Whether a trial went to that number before: then it was said to be the clerk's own."""
    return session.scalar(select(Trial.id).where(Trial.address == number).limit(1)) is not None


def any_trial(session: Session) -> bool:
    """Whether any trial was ever handed over from this ledger."""
    return session.scalar(select(Trial.id).where(Trial.reference.is_not(None)).limit(1)) is not None


def step_trial(trial: Trial, to: Mark, at: datetime, reason: str = "") -> None:
    """The one way the mark of a trial changes; a trigger of the store refuses any other step as well."""
    if (Mark(trial.mark), to) not in ALLOWED:
        raise NotNow(f"This trial is {trial.mark} and cannot become {to}.")
    trial.mark, trial.reason, trial.marked_at = to, reason, at


def waiting(trials: Iterable[Trial]) -> Trial | None:
    """The first of them that is to go."""
    return next((trial for trial in trials if trial.mark == Mark.TO_GO), None)
