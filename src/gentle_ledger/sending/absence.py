"""The carrier's absence: since when it is away, why, and how long it is left alone; kept over a restart."""

from collections.abc import Callable
from datetime import timedelta

from gentle_ledger.sending.lines import Line, Silent, Unavailable
from gentle_ledger.sending.outage import Away, after_failure
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.lines import KeptAway, keep_away, kept_away
from gentle_ledger.store.models import LineRecord
from gentle_ledger.store.statements import Statements


class Absence:
    """What the sender knows of its line's carrier being away. `now` is None while the carrier is there."""

    def __init__(self, line: Line, clock: Clock, draw: Callable[[], float]) -> None:
        self.now: Away | None = None
        self._line_id = 0
        self._line = line
        self._clock = clock
        self._draw = draw

    def recall(self, ledger: Statements, record: LineRecord) -> None:
        """What was before this sender: nobody can say how long ago, so the whole wait begins anew."""
        at, self._line_id = self._clock.monotonic(), record.id
        kept = kept_away(record)
        self.now = (
            Away(kept.reason, kept.since, kept.failures, kept.wait, kept.asked, at + kept.wait, at) if kept else None
        )
        self._keep(ledger)

    @property
    def until(self) -> float | None:
        """Until when the carrier is left alone; None while it is there."""
        return self.now.until if self.now else None

    @property
    def waiting(self) -> bool:
        """True while its wish to be left alone, or our own wait, is not over."""
        return self.now is not None and self._clock.monotonic() < self.now.until

    def cut_short(self, ledger: Statements) -> None:
        """Somebody pressed a button, and expects the carrier to be looked at."""
        self.now = self.now and self.now.cut_short(self._clock.monotonic())
        self._keep(ledger)

    def begin(self, ledger: Statements, outcome: Unavailable | Silent) -> None:
        """The carrier is away, or still is: it could not be reached, or did not take what was handed over."""
        asked = outcome.wait if isinstance(outcome, Unavailable) else 0.0
        at = self._clock.monotonic()
        look = self._line.policy.next_look((self.now.failures if self.now else 0) + 1, self._draw())
        self.now = after_failure(self.now, outcome.reason, asked, look, self._clock.now(), at)
        self._keep(ledger)

    def end(self, ledger: Statements) -> None:
        """The carrier is there: it answered for what was handed over."""
        if self.now is not None:
            self.now = None
            self._keep(ledger)

    def _keep(self, ledger: Statements) -> None:
        away = self.now
        if away is None:
            keep_away(ledger, self._line_id, None)
            return
        until = self._clock.now() + timedelta(seconds=max(0.0, away.until - self._clock.monotonic()))
        kept = KeptAway(away.reason, away.since, away.failures, away.wait, away.asked, until)
        keep_away(ledger, self._line_id, kept)
