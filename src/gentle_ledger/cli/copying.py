"""A copy of the ledger a day, made by itself for as long as the program is served."""

import logging
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from zoneinfo import ZoneInfo

from gentle_ledger.store.copies import CopyRefused, copy_of_the_day
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.web.settings import Settings

log = logging.getLogger(__name__)

_LOOK_EVERY = 600.0
_FIRST_LOOK = 5.0
"""Seconds after the start, so that what the clerk does first is not slowed down by it."""


@contextmanager
def copying(settings: Settings, signal: ChangeSignal) -> Iterator[None]:
    """Keeps a copy of each day, by the office's days, on a thread of its own. What hinders it is told by the signal."""
    over = threading.Event()

    def look() -> None:
        rest = _FIRST_LOOK
        while not over.wait(rest):
            rest = _LOOK_EVERY
            today = datetime.now(ZoneInfo(settings.zone)).date().isoformat()
            try:
                copy_of_the_day(settings.data, today, settings.copies)
                signal.copy_trouble = ""
            except (CopyRefused, OSError) as fault:
                signal.copy_trouble = fault.sentence if isinstance(fault, CopyRefused) else f"No copy: {fault}."
                log.error("Today's copy of the ledger could not be made: %s", signal.copy_trouble)

    thread = threading.Thread(target=look, name="copies", daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
