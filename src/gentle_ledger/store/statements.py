"""Statements written out, for what is done at every text.

Through a session's objects each of them takes ten times as long, and together longer than the hand-over itself.
"""

import sqlite3
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session


class Statements:
    """The driver's connection, within a transaction. An error is raised as a session raises it, a DBAPIError."""

    def __init__(self, connection: sqlite3.Connection) -> None:
        self._connection = connection

    def run(self, statement: str, *values: object) -> sqlite3.Cursor:
        """Runs a statement that changes something."""
        try:
            return self._connection.execute(statement, values)
        except sqlite3.Error as fault:
            raise as_of_a_session(fault, statement, values) from fault

    def first(self, statement: str, *values: object) -> Any:
        """The first row of an answer as a tuple; None where there is none."""
        try:
            return self._connection.execute(statement, values).fetchone()
        except sqlite3.Error as fault:
            raise as_of_a_session(fault, statement, values) from fault

    def rows(self, statement: str, *values: object) -> list[Any]:
        """All rows of an answer, each a tuple."""
        try:
            return self._connection.execute(statement, values).fetchall()
        except sqlite3.Error as fault:
            raise as_of_a_session(fault, statement, values) from fault


def statements_of(session: Session) -> Statements:
    """The same within the transaction of a session, with all that the session has still to write."""
    session.flush()
    connection = session.connection().connection.driver_connection
    if not isinstance(connection, sqlite3.Connection):
        raise TypeError("The store is an SQLite file.")
    return Statements(connection)


def moment_as_text(at: datetime) -> str:
    """A moment as it is kept: ISO 8601 in UTC with microseconds, so that it sorts as text."""
    return at.astimezone(UTC).isoformat(timespec="microseconds")


def as_of_a_session(fault: sqlite3.Error, statement: str, values: Sequence[object]) -> BaseException:
    """An error of the driver as a session raises it."""
    return DBAPIError.instance(statement, tuple(values), fault, sqlite3.Error, hide_parameters=True)
