"""What is done by itself for as long as the program is served: a copy of the ledger a day, and clearing away."""

import logging
import sqlite3
from contextlib import AbstractContextManager
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy.exc import SQLAlchemyError

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.store.clearing import clear_away
from gentle_ledger.store.copies import CopyRefused, copy_of_the_day
from gentle_ledger.store.database import Database
from gentle_ledger.store.repeating import repeating
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.web.settings import Settings

log = logging.getLogger(__name__)

_LOOK_EVERY = 600.0
_FIRST_LOOK = 5.0
"""Seconds after the start, so that what the clerk does first is not slowed down by it."""


def copying(settings: Settings, signal: ChangeSignal) -> AbstractContextManager[None]:
    """Keeps a copy of each day, by the office's days, on a thread of its own. What hinders it is told by the signal."""

    def look() -> None:
        today = datetime.now(ZoneInfo(settings.zone)).date().isoformat()
        try:
            copy_of_the_day(settings.data, today, settings.copies)
            signal.copy_trouble = ""
        except (CopyRefused, OSError) as fault:
            signal.copy_trouble = fault.sentence if isinstance(fault, CopyRefused) else f"No copy: {fault}."
            log.error("Today's copy of the ledger could not be made: %s", signal.copy_trouble)

    return repeating("copies", look, _LOOK_EVERY, _FIRST_LOOK)


def clearing(database: Database) -> AbstractContextManager[None]:
    """Clears away what was cut off, on a thread of its own: what an earlier process left too."""

    def clear() -> None:
        try:
            clear_away(database)
        except (SQLAlchemyError, sqlite3.Error, LedgerError):
            log.warning("What was cut off could not be cleared away yet.", exc_info=True)

    return repeating("clearing", clear, _LOOK_EVERY, _FIRST_LOOK)
