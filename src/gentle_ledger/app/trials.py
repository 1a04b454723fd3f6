"""One to myself: a row's real text to a number of the clerk's own, and to nobody else's by mistake."""

from datetime import datetime

from sqlalchemy.orm import Session

from gentle_ledger.app.counting.reading_texts import TrialText
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.phones import tidy_number
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.lines import terms_now
from gentle_ledger.store.messages import texts_to
from gentle_ledger.store.models import Round, Trial
from gentle_ledger.store.no_more_texts import asked_by
from gentle_ledger.store.rounds import recipe_of
from gentle_ledger.store.trials import ask_for_trial, was_tried


class WhoseNumber(LedgerError):
    """A number that was texted before: whether it is the clerk's own is asked."""

    kind = "whose number"
    status = 409


def own_number_of(typed: str, region: str) -> str:
    """A number of the clerk's own in E.164. Raises NotUsable for one that takes no texts."""
    found = tidy_number(typed, region)
    if not found.e164 or found.problem:
        why = found.problem.sentence if found.problem else "it cannot be read"
        raise NotUsable(f"No text can be sent to this number: {why}.", "Write your own mobile number.")
    return found.e164


def try_on_oneself(
    session: Session, round_id: int, text: TrialText, number: str, seen: str, at: datetime, *, sure: bool
) -> Trial:
    """Puts a row's text down to go to a number (E.164) of the clerk's own.

    `seen` is the fingerprint of the text as it was shown, `sure` the answer that the number is the clerk's own.
    Raises NotNow when the text is another by now, or the number is a recipient's; WhoseNumber when it may be one.
    """
    row = number_of_row(text.row)
    if text.fingerprint != seen:
        raise NotNow("The text changed since it was shown, so nothing was sent.", "Look at it once more.")
    if text.whose is not None:
        theirs, label = text.whose
        raise NotNow(
            f"{number} is the number of row {number_of_row(theirs)}{_called(label)}, not one of your own.",
            "To send a row its text, choose the row on the desk and send it.",
        )
    if not text.text:
        raise NotNow(f"Row {row} has no text that could be sent.", "See what holds it.")
    if text.parts > (most := terms_now(session).most_parts):
        raise NotNow(
            f"The text of row {row} is longer than the {count(most, 'part')} that the line takes.", "Shorten it."
        )
    if asked_by(session, [number]):
        raise NotNow(f"{number} asked for no more texts.", "Write your own mobile number.")
    if not sure and not was_tried(session, number) and (before := texts_to(session, number)):
        title = recipe_of(session.get_one(Round, before[0].round_id)).title
        raise WhoseNumber(f"{number} stands in {title} as row {before[0].row}{_called(before[0].label)}.")
    return ask_for_trial(session, round_id, row, number, text.text, text.parts, at)


def _called(label: str) -> str:
    return f", {label}" if label else ""
