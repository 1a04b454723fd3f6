"""The carrier's absence: since when it is away, why, and how long it is left alone; kept over a restart."""

from collections.abc import Callable

from sqlalchemy.orm import Session

from gentle_ledger.sending.clock import Clock
from gentle_ledger.sending.lines import Line, Silent, Unavailable
from gentle_ledger.sending.outage import Away, after_failure
from gentle_ledger.store.database import Database
from gentle_ledger.store.lines import KeptAway, keep_away, kept_away


class Absence:
    """What the sender knows of its line's carrier being away. `now` is None while the carrier is there."""

    def __init__(self, line: Line, clock: Clock, draw: Callable[[], float]) -> None:
        self.now: Away | None = None
        self._line = line
        self._clock = clock
        self._draw = draw

    def recall(self, database: Database) -> None:
        """What was before this sender: nobody can say how long ago, so the whole wait begins anew."""
        at = self._clock.monotonic()
        with database.reading() as session:
            kept = kept_away(session, self._line.identity)
        self.now = (
            Away(kept.reason, kept.since, kept.failures, kept.wait, kept.asked, at + kept.wait, at) if kept else None
        )

    @property
    def until(self) -> float | None:
        """Until when the carrier is left alone; None while it is there."""
        return self.now.until if self.now else None

    @property
    def waiting(self) -> bool:
        """True while its wish to be left alone, or our own wait, is not over."""
        return self.now is not None and self._clock.monotonic() < self.now.until

    def cut_short(self) -> None:
        """Somebody pressed a button, and expects the carrier to be looked at."""
        self.now = self.now and self.now.cut_short(self._clock.monotonic())

    def begin(self, session: Session, outcome: Unavailable | Silent) -> None:
        """The carrier is away, or still is: it could not be reached, or did not take what was handed over."""
        asked = outcome.wait if isinstance(outcome, Unavailable) else 0.0
        at = self._clock.monotonic()
        away = after_failure(self.now, outcome.reason, asked, self._draw(), self._clock.now(), at)
        self.now = away
        kept = KeptAway(away.reason, away.since, away.failures, away.wait, away.asked)
        keep_away(session, self._line.identity, kept)

    def end(self, session: Session) -> None:
        """The carrier is there: it answered for what was handed over."""
        if self.now is not None:
            self.now = None
            keep_away(session, self._line.identity, None)
