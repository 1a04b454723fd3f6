"""The one way a round's stage changes."""

from sqlalchemy.orm import Session

from gentle_ledger.core.rounds.stages import STEPS, Stage
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import round_of
from gentle_ledger.store.statements import Statements


def step_stage(found: Round, to: Stage, note: str = "") -> None:
    """Brings a round to another stage, with a note of why where the program did it by itself. Raises NotNow.

    A trigger of the store refuses any other step as well.
    """
    before = Stage(found.stage)
    if (before, to) not in STEPS:
        raise NotNow(f"The round is {before}, so it cannot be {to}.", "Look at it once more.")
    found.stage = to
    found.note = note
    found.version += 1


def stage_now(ledger: Statements, round_id: int) -> str | None:
    """Where a round stands; None where there is none."""
    found = ledger.first("SELECT stage FROM rounds WHERE id = ?", round_id)
    return str(found[0]) if found else None


def in_stage(session: Session, round_id: int, stages: set[Stage], refusal: str) -> Round:
    """The round if it is in one of these stages. Raises NotNow with the refusal."""
    found = round_of(session, round_id)
    if Stage(found.stage) not in stages:
        raise NotNow(refusal)
    return found
