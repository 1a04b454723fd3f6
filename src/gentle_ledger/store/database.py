"""Opening the SQLite file: WAL, foreign keys, one writer at a time, and the migrations."""

import os
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any, cast

from filelock import FileLock
from sqlalchemy import Connection, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session
from sqlalchemy.pool import StaticPool

from gentle_ledger.store.errors import CannotOpen
from gentle_ledger.store.models import Base
from gentle_ledger.store.statements import Statements

BUSY_MS = 10_000
_FILE, _FOLDER = 0o600, 0o700
"""Who may read and write: the owner alone, for numbers and amounts of people stand in it."""
_LOOKED_THROUGH = 256 * 1024 * 1024
"""Bytes up to which a file is looked through for damage when it is opened: that takes about a second."""


def keep_private(path: Path) -> None:
    """Makes a file and its folder if they are not there, for their owner only. Raises OSError.

    SQLite gives the files it keeps beside this one the same rights. A folder that was there already stays as it is.
    """
    path.parent.mkdir(mode=_FOLDER, parents=True, exist_ok=True)
    os.close(os.open(path, os.O_RDWR | os.O_CREAT, _FILE))
    if path.stat().st_uid == os.getuid():
        path.chmod(_FILE)


class Database:
    """One SQLite file. `reading()` and `writing()` give a session each; both are short."""

    def __init__(self, path: Path) -> None:
        try:
            keep_private(path)
        except OSError as fault:
            raise CannotOpen(path, fault.strerror or str(fault)) from fault
        self.path = path
        self.engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_MS / 1000})
        event.listen(self.engine, "connect", _prepare)
        event.listen(self.engine, "begin", _begin)

    def migrate(self, to: str = "head") -> None:
        """Brings the tables to the newest form, or to that of the revision `to`.

        Of two first openers one waits for the other.

        Raises CannotOpen when the file cannot be read or written, is damaged, is another program's, or was written by a
        newer version of this one.
        """
        try:
            self._migrate(to)
        except OSError as fault:
            raise CannotOpen(self.path, fault.strerror or str(fault)) from fault
        except DatabaseError as fault:
            raise CannotOpen(self.path, str(fault.orig)) from fault
        except sqlite3.DatabaseError as fault:
            raise CannotOpen(self.path, str(fault)) from fault

    def _migrate(self, to: str) -> None:
        # Most processes that open the file never change its tables; what does that takes 11 MB.
        from alembic import command
        from alembic.config import Config
        from alembic.script import ScriptDirectory

        with FileLock(f"{self.path}.opening", mode=_FILE):
            config = Config()
            config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
            known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
            self._refuse_strange(known)
            with self.engine.connect() as connection:
                config.attributes["connection"] = connection
                command.upgrade(config, to)

    def _refuse_strange(self, known: set[str]) -> None:
        """Nothing is written to a file that is not this version's to write; a mere look leaves it as it is."""
        with closing(sqlite3.connect(self.path, timeout=BUSY_MS / 1000)) as look:
            if self.path.stat().st_size <= _LOOKED_THROUGH and look.execute("PRAGMA quick_check(1)").fetchone() != (
                "ok",
            ):
                raise CannotOpen(self.path, "it is damaged", "Put a copy in its place that was kept before.")
            tables = {name for (name,) in look.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            ours = {"rounds", "messages", "ledger", "alembic_version"} <= tables
            if tables and not ours:
                raise CannotOpen(self.path, "another program keeps its data in it")
            kept = {name for (name,) in look.execute("SELECT version_num FROM alembic_version")} if ours else set()
        if not kept <= known:
            raise CannotOpen(
                self.path, "a newer version of this program has written it", "Start that version, or a newer one."
            )

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that sees the ledger as it stands when it begins."""
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction that holds the write lock from its start, so that what it reads cannot change under it."""
        bound = self.engine.execution_options(gentle_ledger_write=True)
        with Session(bound, expire_on_commit=False) as session, session.begin():
            yield session

    @contextmanager
    def reading_bare(self) -> Iterator[Statements]:
        """The same as `reading`, for statements that are written out."""
        with self._bare("BEGIN") as statements:
            yield statements

    @contextmanager
    def writing_bare(self) -> Iterator[Statements]:
        """The same as `writing`, for statements that are written out."""
        with self._bare("BEGIN IMMEDIATE") as statements:
            yield statements
            statements.run("COMMIT")

    @contextmanager
    def _bare(self, begin: str) -> Iterator[Statements]:
        # The pool rolls back whatever was not committed.
        with closing(self.engine.raw_connection()) as connection:
            statements = Statements(cast("sqlite3.Connection", connection.driver_connection))
            statements.run(begin)
            yield statements

    def close(self) -> None:
        """Lets the file go."""
        self.engine.dispose()


class ScratchDatabase(Database):
    """A ledger in memory alone, with the same tables and nothing in them; it is gone once it is closed.

    It has one connection, which whoever reads or writes has to themselves for so long.
    """

    def __init__(self) -> None:
        # It has no file; whoever asks for its path finds a name that none has.
        self.path = Path("a scratch ledger in memory")
        self.engine = create_engine("sqlite://", poolclass=StaticPool, connect_args={"check_same_thread": False})
        event.listen(self.engine, "connect", _no_begin_of_its_own)
        event.listen(self.engine, "begin", _begin)
        self._guard = threading.Lock()
        with self._guard:
            Base.metadata.create_all(self.engine)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """See `Database`."""
        with self._guard, super().reading() as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """See `Database`."""
        with self._guard, super().writing() as session:
            yield session

    @contextmanager
    def _bare(self, begin: str) -> Iterator[Statements]:
        with self._guard, super()._bare(begin) as statements:
            yield statements


def _no_begin_of_its_own(connection: Any, _record: object) -> None:
    connection.isolation_level = None


def _prepare(connection: Any, _record: object) -> None:
    # SQLAlchemy's own BEGIN is switched off; `_begin` says which kind of transaction starts.
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", f"busy_timeout={BUSY_MS}"):
        connection.execute(f"PRAGMA {pragma}")


def _begin(connection: Connection) -> None:
    writing = connection.get_execution_options().get("gentle_ledger_write", False)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")
