"""What is kept of a line: since when its carrier is away, and why."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from gentle_ledger.store.models import LineRecord


@dataclass(frozen=True, slots=True)
class KeptAway:
    """A carrier that was away when this was written. `wait` is in seconds, `asked` how many the carrier asked for."""

    reason: str
    since: datetime
    failures: int
    wait: float
    asked: float


def kept_away(session: Session, name: str) -> KeptAway | None:
    found = session.get(LineRecord, name)
    if found is None or found.away_since is None:
        return None
    return KeptAway(found.reason, found.away_since, found.failures, found.wait, found.asked)


def keep_away(session: Session, name: str, away: KeptAway | None) -> None:
    """Keeps that a line's carrier is away, or, with None, that it is back."""
    found = session.get(LineRecord, name)
    if found is None:
        found = LineRecord(name=name)
        session.add(found)
    found.away_since = away.since if away else None
    found.reason = away.reason if away else ""
    found.failures = away.failures if away else 0
    found.wait = away.wait if away else 0.0
    found.asked = away.asked if away else 0.0
