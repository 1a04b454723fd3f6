"""How much a sending number was used, counted from what is on record: by civil days of the office."""

from datetime import UTC, date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.pace.civil import day_begins, zone_named
from gentle_ledger.core.pace.decide import Use, day_ends, day_of
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.attempts import AttemptState
from gentle_ledger.store.models import Attempt, LineRecord, Trial

MOST_DAYS = 60
"""Earlier days of use that are counted: no cap tells more days apart."""


def use_of(session: Session, sending_number: str, civil: float, office: str) -> Use:
    """The use of a sending number, whichever line has it, as it is at a moment (POSIX seconds).

    A hand-over counts as soon as it is begun, whatever became of it, unless the carrier said that it did not take it.
    """
    zone = zone_named(office)
    ends = day_ends(civil, zone)
    begins = _begins(civil, office)
    lines = list(session.scalars(select(LineRecord.id).where(LineRecord.name == sending_number)))
    identities = list(session.scalars(select(LineRecord.identity).where(LineRecord.name == sending_number)))
    days, since = 0, datetime.fromtimestamp(0, UTC)
    while days < MOST_DAYS:
        first = _first_since(session, lines, identities, since)
        if first is None or first >= begins:
            break
        days += 1
        since = datetime.fromtimestamp(day_ends(first.timestamp(), zone), UTC)
    return Use(ends, _of_day(session, lines, identities, begins, datetime.fromtimestamp(ends, UTC)), days)


def _begins(civil: float, office: str) -> datetime:
    zone = zone_named(office)
    day: date = day_of(civil, zone)
    return datetime.fromtimestamp(day_begins(day, zone), UTC)


def _first_since(session: Session, lines: list[int], identities: list[str], since: datetime) -> datetime | None:
    attempt = select(func.min(Attempt.at)).where(
        Attempt.line_id.in_(lines), Attempt.at >= since, Attempt.state != AttemptState.NOT_TAKEN
    )
    trial = select(func.min(Trial.marked_at)).where(
        Trial.line.in_(identities), Trial.marked_at >= since, Trial.mark != Mark.TO_GO
    )
    found = [at for at in (session.scalar(attempt), session.scalar(trial)) if at is not None]
    return min(found, default=None)


def _of_day(session: Session, lines: list[int], identities: list[str], begins: datetime, ends: datetime) -> int:
    attempts = select(func.count()).where(
        Attempt.line_id.in_(lines),
        Attempt.at >= begins,
        Attempt.at < ends,
        Attempt.state != AttemptState.NOT_TAKEN,
    )
    trials = select(func.count()).where(
        Trial.line.in_(identities), Trial.marked_at >= begins, Trial.marked_at < ends, Trial.mark != Mark.TO_GO
    )
    return (session.scalar(attempts) or 0) + (session.scalar(trials) or 0)
