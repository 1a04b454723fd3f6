"""How much a sending number was used, counted from what is on record: by civil days of the office."""

from datetime import UTC, date, datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.pace.civil import day_begins, zone_named
from gentle_ledger.core.pace.decide import Use, day_ends, day_of
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.attempts import AttemptState
from gentle_ledger.store.models import Attempt, LineRecord, Trial, UnknownHandOver
from gentle_ledger.store.witness import line_key

MOST_DAYS = 60
"""Earlier days of use that are counted: no cap tells more days apart."""


def use_of(session: Session, sending_number: str, civil: float, office: str, days: int | None = None) -> Use:
    """The use of a sending number, whichever line has it, as it is at a moment (POSIX seconds).

    A hand-over counts as soon as it is begun, whatever became of it, unless the carrier said that it did not take it.
    `days` are those of `days_before`, for who has counted them already.
    """
    ends = day_ends(civil, zone_named(office))
    begins = _begins(civil, office)
    lines, identities = _lines(session, sending_number)
    of_day = _of_day(session, lines, identities, begins, datetime.fromtimestamp(ends, UTC))
    return Use(ends, of_day, days_before(session, sending_number, civil, office) if days is None else days)


def days_before(session: Session, sending_number: str, civil: float, office: str) -> int:
    """The civil days before that of a moment on which a sending number was in use, `MOST_DAYS` at most."""
    zone, begins = zone_named(office), _begins(civil, office)
    lines, identities = _lines(session, sending_number)
    days, since = 0, datetime.fromtimestamp(0, UTC)
    while days < MOST_DAYS:
        first = _first_since(session, lines, identities, since)
        if first is None or first >= begins:
            break
        days += 1
        since = datetime.fromtimestamp(day_ends(first.timestamp(), zone), UTC)
    return days


def _lines(session: Session, sending_number: str) -> tuple[list[int], list[str]]:
    found = session.execute(select(LineRecord.id, LineRecord.identity).where(LineRecord.name == sending_number)).all()
    return [each.id for each in found], [each.identity for each in found]


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
    unknown = select(func.min(UnknownHandOver.at)).where(
        UnknownHandOver.line_key.in_(map(line_key, identities)), UnknownHandOver.at >= since
    )
    found = [at for at in map(session.scalar, (attempt, trial, unknown)) if at is not None]
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
    # What a witness names counts as well, although nobody here knows what it was about.
    unknown = select(func.count()).where(
        UnknownHandOver.line_key.in_(map(line_key, identities)),
        UnknownHandOver.at >= begins,
        UnknownHandOver.at < ends,
    )
    return sum(session.scalar(wanted) or 0 for wanted in (attempts, trials, unknown))
