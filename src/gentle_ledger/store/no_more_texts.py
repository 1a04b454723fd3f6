"""Who asked for no more texts: the list, and what it does to texts that are still to go."""

from collections.abc import Collection
from datetime import date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.history import Asked
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.freezing import STARTED
from gentle_ledger.store.models import Message, NoMoreTexts
from gentle_ledger.store.statements import Statements, statements_of
from gentle_ledger.store.steps import MarkedText, step_text

ASKED_MEANWHILE = reason_kind("asked meanwhile", "asked for no more texts before this one went")
OPEN_THEN = reason_kind("asked while open", "asked for no more texts while nobody could say what became of a first try")


def standing(session: Session) -> list[NoMoreTexts]:
    """Everybody on the list, the last noted first."""
    wanted = select(NoMoreTexts).where(NoMoreTexts.taken_off_at.is_(None))
    return list(session.scalars(wanted.order_by(NoMoreTexts.id.desc())))


def asked_by(session: Session, numbers: Collection[str]) -> dict[str, Asked]:
    """Those of the numbers (E.164) that are on the list."""
    return {one.number: Asked(one.asked_on, one.how) for one in standing(session) if one.number in numbers}


def changes_so_far(session: Session) -> int:
    """How often the list was changed so far."""
    noted, taken_off = session.execute(select(func.count(), func.count(NoMoreTexts.taken_off_at))).one()
    return int(noted) + int(taken_off)


def note(session: Session, number: str, on: date, how: str, at: datetime) -> tuple[NoMoreTexts, int]:
    """Puts a number (E.164) on the list, and leaves out what is still to go to it; says how many texts these were.

    Raises NotNow for one that is there already.
    """
    known = session.scalars(
        select(NoMoreTexts).where(NoMoreTexts.number == number, NoMoreTexts.taken_off_at.is_(None))
    ).first()
    if known is not None:
        raise NotNow(f"{number} is on the list already, since {known.asked_on:%Y-%m-%d}.")
    found = NoMoreTexts(number=number, asked_on=on, how=how, noted_at=at)
    session.add(found)
    session.flush()
    waiting = session.scalars(
        select(Message).where(
            Message.address == number, Message.mark.in_((Mark.TO_GO, Mark.READY)), Message.with_row.is_(None), STARTED
        )
    ).all()
    ledger = statements_of(session)
    return found, sum(gives_way(ledger, message, at) for message in waiting)


def gives_way(ledger: Statements, text: Message | MarkedText, at: datetime) -> bool:
    """Leaves a text that is to go out where its number is on the list, and says whether it did.

    Of one whose first try may have gone nobody can say that it is left out: it is Unsure, and asked about.
    """
    if not ledger.first("SELECT 1 FROM no_more_texts WHERE number = ? AND taken_off_at IS NULL", text.address):
        return False
    to = Mark.UNSURE if text.uncertain else Mark.LEFT_OUT
    step_text(ledger, text, to, at, reason=(OPEN_THEN if text.uncertain else ASKED_MEANWHILE)())
    return True


def take_off(session: Session, entry: int, at: datetime) -> None:
    """Takes an entry off that stood there by mistake. What was left out because of it stays left out."""
    found = session.get(NoMoreTexts, entry)
    if found is None or found.taken_off_at is not None:
        raise NotThere("This number is not on the list any more.")
    found.taken_off_at = at
    session.flush()
