"""What the stand-in remembers: every request by its correlator, and every text that arrived on a handset."""

import os
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

_TABLES = """
CREATE TABLE IF NOT EXISTS requests (
    id INTEGER PRIMARY KEY AUTOINCREMENT, sender TEXT NOT NULL, correlator TEXT NOT NULL, number TEXT NOT NULL,
    text TEXT NOT NULL, status INTEGER NOT NULL, fault TEXT NOT NULL, at TEXT NOT NULL,
    UNIQUE (sender, correlator)
);
CREATE INDEX IF NOT EXISTS requests_by_number ON requests (number);
CREATE TABLE IF NOT EXISTS tried (number TEXT PRIMARY KEY);
"""


@dataclass(frozen=True, slots=True)
class Request:
    """One outbound request; `fault` is the messageId of the exception it was answered with, or ""."""

    id: int
    sender: str
    correlator: str
    number: str
    text: str
    status: int
    fault: str
    at: str

    @property
    def sent(self) -> bool:
        return not self.fault


class Records:
    """A data file of its own; each call is one short transaction."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        os.close(os.open(path, os.O_RDWR | os.O_CREAT, 0o600))
        self._guard = threading.Lock()
        self._connection = sqlite3.connect(path, check_same_thread=False, isolation_level=None)
        self._connection.execute("PRAGMA journal_mode=WAL")
        self._connection.executescript(_TABLES)

    @contextmanager
    def _locked(self) -> Iterator[sqlite3.Connection]:
        with self._guard:
            yield self._connection

    def add(self, sender: str, correlator: str, number: str, text: str, status: int, fault: str, at: str) -> Request:
        """Keeps a request; the same correlator again gives back the first one, and keeps nothing new."""
        with self._locked() as connection:
            connection.execute(
                "INSERT OR IGNORE INTO requests (sender, correlator, number, text, status, fault, at) "
                "VALUES (?, ?, ?, ?, ?, ?, ?)",
                (sender, correlator, number, text, status, fault, at),
            )
        found = self.by_correlator(sender, correlator)
        if found is None:  # pragma: no cover - the row was just written
            raise RuntimeError("a request vanished")
        return found

    def by_correlator(self, sender: str, correlator: str) -> Request | None:
        return self._one("sender = ? AND correlator = ?", sender, correlator)

    def by_id(self, sender: str, request_id: int) -> Request | None:
        return self._one("sender = ? AND id = ?", sender, request_id)

    def first_time(self, number: str) -> bool:
        """True the first time it is asked for a number whose first request fails. Of that request nothing is kept."""
        with self._locked() as connection:
            return connection.execute("INSERT OR IGNORE INTO tried VALUES (?)", (number,)).rowcount == 1

    def arrived(self) -> list[Request]:
        """Every text that arrived on a handset, oldest first."""
        with self._locked() as connection:
            rows = connection.execute("SELECT * FROM requests WHERE fault = '' ORDER BY id").fetchall()
        return [Request(*row) for row in rows]

    def _one(self, where: str, *values: object) -> Request | None:
        with self._locked() as connection:
            row = connection.execute(f"SELECT * FROM requests WHERE {where} ORDER BY id LIMIT 1", values).fetchone()
        return Request(*row) if row else None

    def close(self) -> None:
        self._connection.close()
