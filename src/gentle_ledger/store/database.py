"""Opening the SQLite file: WAL, foreign keys, one writer at a time, and the migrations."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from filelock import FileLock
from sqlalchemy import Connection, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session

from gentle_ledger.store.errors import CannotOpen

BUSY_MS = 15_000


class Database:
    """One SQLite file. `reading()` and `writing()` give a session each; both are short."""

    def __init__(self, path: Path) -> None:
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as fault:
            raise CannotOpen(path, fault.strerror or str(fault)) from fault
        self.path = path
        self.engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_MS / 1000})
        event.listen(self.engine, "connect", _prepare)
        event.listen(self.engine, "begin", _begin)

    def migrate(self) -> None:
        """Brings the tables to the newest form; of two first openers one waits for the other.

        Raises CannotOpen when the file cannot be read, written, or is no ledger at all.
        """
        try:
            self._migrate()
        except OSError as fault:
            raise CannotOpen(self.path, fault.strerror or str(fault)) from fault
        except DatabaseError as fault:
            raise CannotOpen(self.path, str(fault.orig)) from fault

    def _migrate(self) -> None:
        with FileLock(f"{self.path}.opening"):
            config = Config()
            config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
            with self.engine.connect() as connection:
                config.attributes["connection"] = connection
                command.upgrade(config, "head")

    @contextmanager
    def reading(self) -> Iterator[Session]:
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction that holds the write lock from its start, so that what it reads cannot change under it."""
        bound = self.engine.execution_options(gentle_ledger_write=True)
        with Session(bound, expire_on_commit=False) as session, session.begin():
            yield session

    def close(self) -> None:
        self.engine.dispose()


def _prepare(connection: Any, _record: object) -> None:
    # SQLAlchemy's own BEGIN is switched off; `_begin` says which kind of transaction starts.
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", f"busy_timeout={BUSY_MS}"):
        connection.execute(f"PRAGMA {pragma}")


def _begin(connection: Connection) -> None:
    writing = connection.get_execution_options().get("gentle_ledger_write", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")
