"""Notices what other processes write to a ledger, so that they need no other way to tell."""

import logging
import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager

from gentle_ledger.store.database import Database

log = logging.getLogger(__name__)

LOOK_EVERY = 0.05
"""Seconds between two looks; each is one read of a counter, some millionths of a second."""


@contextmanager
def watching(database: Database, tell: Callable[[], None]) -> Iterator[None]:
    """Has `tell` called, on a thread of its own, soon after anybody wrote to the ledger, for as long as this lasts."""
    stop = threading.Event()
    thread = threading.Thread(target=_watch, args=(database, tell, stop), name="watch", daemon=True)
    thread.start()
    try:
        yield
    finally:
        stop.set()
        thread.join()


def _watch(database: Database, tell: Callable[[], None], stop: threading.Event) -> None:
    """`PRAGMA data_version` is another whenever another connection has written; see SQLite's documentation of it."""
    while not stop.is_set() and not database.displaced:
        try:
            with closing(sqlite3.connect(database.path, isolation_level=None)) as look:
                known = None
                while not stop.wait(LOOK_EVERY) and not database.displaced:
                    version = look.execute("PRAGMA data_version").fetchone()
                    if known is not None and version != known:
                        tell()
                    known = version
        except sqlite3.Error as fault:
            # Whoever listens looks by itself all the same, only later.
            log.warning("The ledger cannot be watched at present: %s", fault)
            stop.wait(1.0)
