"""What goes first: while an answer is made that a person waits for at the keyboard, long work rests."""

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

LONGEST_REST = 1.0
"""Seconds after which long work goes on all the same, so that nothing can keep it waiting for ever."""
UNTIL_DRAWN = 0.05
"""Seconds that long work leaves the processor to the browser, which now draws what it was answered."""


class Priority:
    """Python runs one thread at a time, and a machine has few cores: long work that does not rest slows every key."""

    def __init__(self) -> None:
        self._short = 0
        self._guard = threading.Lock()
        self._free = threading.Event()
        self._free.set()

    @contextmanager
    def short(self) -> Iterator[None]:
        """For work of some milliseconds that somebody waits for."""
        with self._guard:
            self._short += 1
            self._free.clear()
        try:
            yield
        finally:
            with self._guard:
                self._short -= 1
                if self._short == 0:
                    self._free.set()

    def give_way(self) -> None:
        """Called by long work every few rows: returns when no short work is under way."""
        if not self._free.is_set():
            self._free.wait(LONGEST_REST)
            time.sleep(UNTIL_DRAWN)
