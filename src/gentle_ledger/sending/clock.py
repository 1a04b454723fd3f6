"""The one place where time enters."""

import threading
import time
from datetime import UTC, datetime
from typing import Protocol


class Clock(Protocol):
    def monotonic(self) -> float:
        """Seconds of a clock that only runs forward; only differences mean anything."""
        ...

    def now(self) -> datetime:
        """The moment, with its offset, as it is written down."""
        ...

    def wait(self, woken: threading.Event, seconds: float) -> None:
        """Returns when `woken` is set or the seconds are over."""
        ...


class SystemClock:
    def monotonic(self) -> float:
        return time.monotonic()

    def now(self) -> datetime:
        return datetime.now(UTC)

    def wait(self, woken: threading.Event, seconds: float) -> None:
        woken.wait(seconds)
