"""What is kept of a round's last rehearsal."""

from datetime import datetime

from sqlalchemy.orm import Session

from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.store.models import RehearsalRecord, Round


def keep_rehearsal(
    session: Session, round_id: int, at: datetime, seal: str, pace: PaceSettings, outcome: str, *, whole: bool
) -> None:
    """Keeps what came of a rehearsal, in the place of the one before; nothing where the round is gone by now."""
    if session.get(Round, round_id) is None:
        return
    kept = pace.model_dump_json()
    session.merge(RehearsalRecord(round_id=round_id, at=at, seal=seal, pace=kept, outcome=outcome, whole=whole))


def rehearsal_of(session: Session, round_id: int) -> RehearsalRecord | None:
    """A round's last rehearsal; None before the first."""
    return session.get(RehearsalRecord, round_id)


def pace_then(record: RehearsalRecord) -> PaceSettings:
    """The pace at which it was rehearsed."""
    return PaceSettings.model_validate_json(record.pace)
