"""The one place where time enters, as two clocks: one that only runs forward, and one of civil time."""

import threading
import time
from datetime import UTC, datetime
from typing import Protocol

from gentle_ledger.core.pace.decide import Now, now_at


class Clock(Protocol):
    """Where time comes from."""

    def monotonic(self) -> float:
        """Seconds of a clock that only runs forward; only differences mean anything."""
        ...

    def now(self) -> datetime:
        """The moment, with its offset, as it is written down."""
        ...

    def wait(self, woken: threading.Event, seconds: float) -> None:
        """Returns when `woken` is set or the seconds are over."""
        ...


def both(clock: Clock) -> Now:
    """The present moment by both clocks."""
    return now_at(clock.monotonic(), clock.now())


class SystemClock:
    """The machine's own clocks."""

    def monotonic(self) -> float:
        """See `Clock`."""
        return time.monotonic()

    def now(self) -> datetime:
        """See `Clock`."""
        return datetime.now(UTC)

    def wait(self, woken: threading.Event, seconds: float) -> None:
        """See `Clock`."""
        woken.wait(seconds)
