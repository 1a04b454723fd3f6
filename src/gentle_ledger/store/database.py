"""Opening the SQLite file: WAL, foreign keys, one writer at a time, and the migrations."""

import os
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from typing import Any, cast

from filelock import FileLock
from sqlalchemy import Connection, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session
from sqlalchemy.pool import StaticPool

from gentle_ledger.store import models as _tables  # noqa: F401 - they make themselves known to Base
from gentle_ledger.store.base import Base
from gentle_ledger.store.displaced import set_apart
from gentle_ledger.store.errors import CannotOpen, Displaced, cannot_open
from gentle_ledger.store.places import refuse_where_one_was
from gentle_ledger.store.processes import who_writes
from gentle_ledger.store.statements import Statements, as_of_a_session

BUSY_MS = 10_000
_LOOK_EVERY = 0.001
"""Seconds between two looks whether the write lock is free."""
_ROOM = 0.004
"""Seconds that are left to others between two pieces of a long change: a few looks of theirs."""
_BEGIN_WRITING = "BEGIN IMMEDIATE"
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
        refuse_where_one_was(path)
        try:
            keep_private(path)
        except OSError as fault:
            raise cannot_open(path, fault) from fault
        self.path = path
        self._stands = _lies_at(path)
        self._kept: str | None = None
        self._of_thread = threading.local()
        self._lasting_ones: list[sqlite3.Connection] = []
        self.engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_MS / 1000}, hide_parameters=True)
        event.listen(self.engine, "connect", self._connected)
        event.listen(self.engine, "begin", self._begin)

    def migrate(self, to: str = "head") -> None:
        """Brings the tables to the newest form, or to that of the revision `to`.

        Of two first openers one waits for the other.

        Raises CannotOpen when the file cannot be read or written, is damaged, is another program's, or was written by a
        newer version of this one.
        """
        try:
            self._migrate(to)
        except (OSError, DatabaseError, sqlite3.DatabaseError) as fault:
            raise cannot_open(self.path, fault) from fault

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

    def _connected(self, connection: Any, record: object) -> None:
        # A file that was put in the place of ours has no share in our write-ahead log: it is not even read.
        self.refuse_displaced()
        _prepare(connection, record)

    def _begin(self, connection: Connection) -> None:
        driver = connection.connection.driver_connection
        writing = connection.get_execution_options().get("gentle_ledger_write", False)
        if writing and isinstance(driver, sqlite3.Connection):
            begin_writing(driver, self.path)
        else:
            connection.exec_driver_sql("BEGIN")

    def refuse_displaced(self) -> None:
        """Raises Displaced where what is open is not what lies there any more, for good.

        Two files that share one write-ahead log damage each other (SQLite, How To Corrupt, 2.4 and 4.1).
        """
        if self._kept is None and _lies_at(self.path) == self._stands:
            return
        if self._kept is None:
            self._kept = set_apart(self.path, self.engine, self._lasting_ones)
        raise Displaced(self.path, self._kept, gone=_lies_at(self.path) is None)

    @property
    def displaced(self) -> bool:
        """Whether what is open is not what lies there any more."""
        return self._kept is not None or _lies_at(self.path) != self._stands

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that sees the ledger as it stands when it begins. Raises Displaced."""
        self.refuse_displaced()
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def writing(self, *, piece: bool = False) -> Iterator[Session]:
        """A transaction that holds the write lock from its start, so that what it reads cannot change under it.

        One of many, a `piece`, leaves room for others after it. Raises Displaced.
        """
        self.refuse_displaced()
        bound = self.engine.execution_options(gentle_ledger_write=True)
        with Session(bound, expire_on_commit=False) as session, session.begin():
            yield session
        if piece:
            time.sleep(_ROOM)

    @contextmanager
    def reading_bare(self) -> Iterator[Statements]:
        """The same as `reading`, for statements that are written out."""
        with self._bare("BEGIN") as statements:
            yield statements

    @contextmanager
    def writing_bare(self, *, piece: bool = False, patience: float | None = None) -> Iterator[Statements]:
        """The same as `writing`, for statements that are written out. `patience` is for the lock, in seconds."""
        with self._bare(_BEGIN_WRITING, patience) as statements:
            yield statements
            statements.run("COMMIT")
        if piece:
            time.sleep(_ROOM)

    @contextmanager
    def _bare(self, begin: str, patience: float | None = None) -> Iterator[Statements]:
        self.refuse_displaced()
        # To take a connection from the pool and give it back takes longer than most of what is done over it.
        free = self._free()
        connection = free.pop() if free else self._lasting()
        try:
            statements = Statements(connection)
            if begin == _BEGIN_WRITING:
                begin_writing(connection, self.path, patience)
            else:
                statements.run(begin)
            yield statements
        finally:
            if connection.in_transaction:
                connection.rollback()
            free.append(connection)

    def _free(self) -> list[sqlite3.Connection]:
        """The connections of this thread for statements that are written out, but those in use."""
        if not hasattr(self._of_thread, "free"):
            self._of_thread.free = []
        return cast("list[sqlite3.Connection]", self._of_thread.free)

    def _lasting(self) -> sqlite3.Connection:
        taken = self.engine.raw_connection()
        connection = cast("sqlite3.Connection", taken.driver_connection)
        taken.detach()
        self._lasting_ones.append(connection)
        return connection

    def close(self) -> None:
        """Lets the file go. What was displaced is not closed: SQLite would clear away the files of the other one."""
        if not self.displaced:
            self._of_thread = threading.local()
            while self._lasting_ones:
                self._lasting_ones.pop().close()
            self.engine.dispose()

    def leave_tidy(self) -> None:
        """Lets the file go; where nobody else has it open, all of it stands in that one file then."""
        self.close()
        if not self.displaced:
            with suppress(sqlite3.Error), closing(sqlite3.connect(self.path, timeout=1.0)) as last:
                last.execute("PRAGMA wal_checkpoint(TRUNCATE)")


class ScratchDatabase(Database):
    """A ledger in memory alone, with the same tables and nothing in them; it is gone once it is closed.

    It has one connection, which whoever reads or writes has to themselves for so long.
    """

    def __init__(self) -> None:
        # It has no file; whoever asks for its path finds a name that none has.
        self.path = Path("a scratch ledger in memory")
        self._stands = None
        self._kept = None
        self._of_thread = threading.local()
        self._lasting_ones = []
        self.engine = create_engine("sqlite://", poolclass=StaticPool, connect_args={"check_same_thread": False})
        event.listen(self.engine, "connect", _no_begin_of_its_own)
        event.listen(self.engine, "begin", self._begin)
        self._guard = threading.Lock()
        with self._guard:
            Base.metadata.create_all(self.engine)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """See `Database`."""
        with self._guard, super().reading() as session:
            yield session

    @contextmanager
    def writing(self, *, piece: bool = False) -> Iterator[Session]:
        """See `Database`."""
        with self._guard, super().writing(piece=piece) as session:
            yield session

    @contextmanager
    def _bare(self, begin: str, patience: float | None = None) -> Iterator[Statements]:
        with self._guard, closing(self.engine.raw_connection()) as connection:
            statements = Statements(cast("sqlite3.Connection", connection.driver_connection))
            statements.run(begin)
            yield statements


def _lies_at(path: Path) -> tuple[int, int] | None:
    """Which file lies at a path, whatever it is called: its device and its number there. None where none does."""
    try:
        found = os.stat(path)
    except FileNotFoundError:
        return None
    return found.st_dev, found.st_ino


def _no_begin_of_its_own(connection: Any, _record: object) -> None:
    connection.isolation_level = None


def _prepare(connection: Any, _record: object) -> None:
    # SQLAlchemy's own BEGIN is switched off; `_begin` says which kind of transaction starts.
    connection.isolation_level = None
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", f"busy_timeout={BUSY_MS}"):
        connection.execute(f"PRAGMA {pragma}")


def begin_writing(connection: sqlite3.Connection, path: Path, patience: float | None = None) -> None:
    """Begins a transaction that writes, as soon as nobody else does.

    SQLite's own way of waiting looks ever more seldom, and does not see the room between two pieces of a long change.
    Raises OperationalError after so many seconds, or `BUSY_MS`; `held_by` of its cause is who holds the lock of the
    file at that path.
    """
    until = time.monotonic() + (BUSY_MS / 1000 if patience is None else patience)
    connection.execute("PRAGMA busy_timeout = 0")
    try:
        while True:
            try:
                connection.execute(_BEGIN_WRITING)
            except sqlite3.OperationalError as fault:
                busy = fault.sqlite_errorcode & 0xFF == sqlite3.SQLITE_BUSY
                if not busy or time.monotonic() >= until:
                    fault.held_by = who_writes(path) if busy else None  # type: ignore[attr-defined]
                    raise as_of_a_session(fault, _BEGIN_WRITING, ()) from fault
                time.sleep(_LOOK_EVERY)
            else:
                return
    finally:
        connection.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
