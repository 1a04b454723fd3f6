"""What is done when the ledger's file is replaced or removed while it is open: what was open is kept, and set apart."""

import logging
import os
import sqlite3
import time
from collections.abc import Sequence
from contextlib import closing, suppress
from pathlib import Path

from filelock import FileLock
from sqlalchemy import Engine

log = logging.getLogger(__name__)

_BESIDE = ("-wal", "-shm")


def set_apart(path: Path, engine: Engine, open_ones: Sequence[sqlite3.Connection]) -> str:
    """Keeps what was open in a file of its own, and takes its write-ahead log away from the file that lies there now.

    Returns the name of that file, or "" where nothing could be kept. Several processes may find out at once: the first
    one does it.
    """
    with FileLock(f"{path}.opening", mode=0o600, timeout=10):
        kept = _keep(path, engine, open_ones)
        for ending in _BESIDE:
            beside = Path(f"{path}{ending}")
            if _is_open_here(beside):
                with suppress(OSError):
                    beside.rename(f"{path}{ending}.set-apart")
    log.error("The ledger was replaced or removed while it was open; what was open is kept in %s.", kept or "no file")
    return kept


def _keep(path: Path, engine: Engine, open_ones: Sequence[sqlite3.Connection]) -> str:
    to = Path(f"{path}.was-open-{time.strftime('%Y%m%d-%H%M%S')}")
    if to.exists():
        return str(to)
    try:
        os.close(os.open(to, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600))
        with closing(sqlite3.connect(to)) as copy:
            if open_ones:
                open_ones[0].backup(copy)
                return str(to)
            # A new connection would be one to the other file: only one that is open already is of use.
            if engine.pool.checkedin() == 0:  # type: ignore[attr-defined]
                raise sqlite3.OperationalError("nothing is open")
            with closing(engine.raw_connection()) as connection:
                source = connection.driver_connection
                if isinstance(source, sqlite3.Connection):
                    source.backup(copy)
    except (OSError, sqlite3.Error):
        to.unlink(missing_ok=True)
        return ""
    return str(to)


def _is_open_here(path: Path) -> bool:
    """Whether this process has that very file open, as far as the system tells (proc(5), fd)."""
    with suppress(OSError):
        wanted = path.stat()
        for handle in os.listdir("/proc/self/fd"):
            with suppress(OSError):
                found = os.stat(f"/proc/self/fd/{handle}")
                if (found.st_dev, found.st_ino) == (wanted.st_dev, wanted.st_ino):
                    return True
    return False
