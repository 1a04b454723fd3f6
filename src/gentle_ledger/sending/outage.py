"""What is known of a line whose carrier is away, and of rows that fail alike."""

from dataclasses import dataclass, replace
from datetime import datetime

ALIKE = 3
"""Rows in a row that fail alike, for a reason that may not be their own, until the round pauses and asks."""
ALIKE_OWN = 10
"""The same for a reason that is surely a row's own, unless the carrier says it of everybody."""


@dataclass(frozen=True, slots=True)
class Away:
    """A carrier that takes no text at present.

    Attributes:
        reason: what it answered, or how it could not be reached.
        since: the moment of the first look that failed.
        failures: how many looks in a row failed.
        wait: how many seconds the present wait is long.
        asked: how many of them the carrier asked for itself; only the rest may be cut short.
        until: when the wait is over, in seconds of the clock that only runs forward.
        first_at: the first look that failed, or the start of this process, on the same clock.
    """

    reason: str
    since: datetime
    failures: int
    wait: float
    asked: float
    until: float
    first_at: float

    def cut_short(self, now: float) -> "Away":
        """Somebody wants the carrier to be looked at now; what it asked for itself is waited out all the same."""
        return replace(self, until=max(now, min(self.until, self.until - self.wait + self.asked)))


def after_failure(before: Away | None, reason: str, asked: float, look: float, at: datetime, now: float) -> Away:
    """The carrier could not take a text: how long to keep away from it now.

    `asked` is the wait that the carrier named, 0 for none; it is never shortened. `look` is that of our own.
    """
    failures = (before.failures if before else 0) + 1
    wait = max(asked, look)
    since, first_at = (before.since, before.first_at) if before else (at, now)
    return Away(reason, since, failures, wait, asked, now + wait, first_at)


@dataclass(slots=True)
class Alike:
    """Counts the rows of one round that failed alike one after the other."""

    code: str = ""
    rows: int = 0

    def failed(self, code: str, *, own: bool) -> bool:
        """Counts one more, by what it failed with; True when the round should pause and ask.

        The count then begins anew.
        """
        self.rows = self.rows + 1 if code == self.code else 1
        self.code = code
        if self.rows < (ALIKE_OWN if own else ALIKE):
            return False
        self.rows = 0
        return True

    def went(self) -> None:
        """One went: what failed before it failed by itself."""
        self.rows = 0
