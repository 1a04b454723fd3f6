"""Copies of the whole ledger: made while it is in use, looked through, and put back as a stranger's file would be."""

import contextlib
import os
import re
import sqlite3
import tempfile
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from urllib.parse import quote

from filelock import FileLock, Timeout
from sqlalchemy import select

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import cannot_write
from gentle_ledger.store.models import Round
from gentle_ledger.store.processes import Seen, seen
from gentle_ledger.store.put_back import OLDER
from gentle_ledger.store.senders import turns
from gentle_ledger.store.serving import is_served
from gentle_ledger.store.stages import step_stage

_PRIVATE = 0o600
_PATIENCE = 10.0
"""Seconds for which a ledger that is to be copied may be locked."""
_BROKEN_OFF = 600.0
"""Seconds after which nobody writes any more to a copy that has no name yet."""
_NAME = re.compile(r"ledger-(\d{4}-\d{2}-\d{2})\.sqlite3")


class CopyRefused(LedgerError):
    """A copy cannot be made, or cannot be put back."""

    kind = "copy refused"
    status = 409


@dataclass(frozen=True, slots=True)
class Copy:
    """A copy that is kept: its file, when it was made, and its size in bytes."""

    path: Path
    at: datetime
    size: int


def save_copy(ledger: Path, to: Path) -> Copy:
    """Copies a ledger into a new file, while it is in use, and looks the copy through. Never over another file.

    Raises CopyRefused.
    """
    if not ledger.exists():
        raise CopyRefused(f'There is no ledger in "{ledger}".')
    made = Path(f"{to}.part")
    try:
        # Made by this process alone, for its owner alone, and under its name only once it is whole.
        os.close(os.open(made, os.O_RDWR | os.O_CREAT | os.O_EXCL, _PRIVATE))
    except FileExistsError as fault:
        said = "Another copy is being made, or one broke off: see to it."
        raise CopyRefused(f'"{made}" is there already.', said) from fault
    except OSError as fault:
        raise CopyRefused(f'No copy can be written to "{to}": {fault.strerror}.') from fault
    try:
        of = f"file:{quote(str(ledger))}?mode=ro"
        with (
            closing(sqlite3.connect(of, uri=True, timeout=_PATIENCE)) as source,
            closing(sqlite3.connect(made)) as copy,
        ):
            # With a lock of its own it never waits within: that has no end (Python's sqlite3, Connection.backup).
            source.execute("BEGIN")
            source.execute("SELECT 1 FROM sqlite_master")
            source.backup(copy)
            copy.execute("PRAGMA journal_mode=DELETE")
            _refuse_damaged(copy, made)
        with made.open("rb") as written:
            os.fsync(written.fileno())
        _name(made, to)
    except FileExistsError as fault:
        raise CopyRefused(f'"{to}" is there already, and no copy is made over it.', "Choose another name.") from fault
    except (OSError, sqlite3.Error) as fault:
        known = cannot_write(fault)
        remedy = known.remedy_once if known else "See to the disk, and try again."
        raise CopyRefused(f"The copy could not be made. {known.what if known else f'{fault}.'}", remedy) from fault
    finally:
        made.unlink(missing_ok=True)
    return _as_copy(to)


def _name(made: Path, to: Path) -> None:
    """Gives a copy that is whole its name. Raises FileExistsError where something has it."""
    try:
        # A link is refused where there is such a file, which a rename is not.
        os.link(made, to)
    except FileExistsError:
        raise
    except OSError:
        # A stick may know no links (FAT). The name is taken first, and the copy put in its place.
        os.close(os.open(to, os.O_WRONLY | os.O_CREAT | os.O_EXCL, _PRIVATE))
        os.replace(made, to)


def _as_copy(path: Path) -> Copy:
    found = path.stat()
    return Copy(path, datetime.fromtimestamp(found.st_mtime, UTC), found.st_size)


def _refuse_damaged(copy: sqlite3.Connection, path: Path) -> None:
    found = copy.execute("PRAGMA integrity_check(3)").fetchall()
    if found != [("ok",)]:
        raise CopyRefused(f'"{path}" is damaged: {found[0][0]}.', "Take another copy.")
    if copy.execute("PRAGMA foreign_key_check").fetchone() is not None:
        raise CopyRefused(f'"{path}" is damaged: something in it belongs to nothing.', "Take another copy.")


def folder_of_copies(ledger: Path) -> Path:
    """Where the copies are that are kept by themselves."""
    return Path(f"{ledger}.copies")


def kept_copies(ledger: Path) -> list[Copy]:
    """The copies that are kept by themselves, the newest first."""
    folder = folder_of_copies(ledger)
    found = [path for path in folder.iterdir() if _NAME.fullmatch(path.name)] if folder.is_dir() else []
    return [_as_copy(path) for path in sorted(found, key=lambda path: path.name, reverse=True)]


def copy_of_the_day(ledger: Path, today: str, keep: int) -> Copy | None:
    """Makes the copy of a day (ISO 8601), unless there is one, and removes all but the newest; None where it is there.

    Raises CopyRefused.
    """
    folder = folder_of_copies(ledger)
    to = folder / f"ledger-{today}.sqlite3"
    if keep <= 0 or to.exists():
        return None
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
    except OSError as fault:
        raise CopyRefused(f'No copy can be kept in "{folder}": {fault.strerror}.') from fault
    for broken_off in folder.glob("*.part"):
        if time.time() - broken_off.stat().st_mtime > _BROKEN_OFF:
            broken_off.unlink(missing_ok=True)
    made = save_copy(ledger, to)
    for old in kept_copies(ledger)[keep:]:
        old.path.unlink(missing_ok=True)
    return made


# --- putting one back ------------------------------------------------------------------------------------------------


def put_copy_back(ledger: Path, stranger: Path) -> Path | None:
    """Puts a copy in the place of a ledger that nobody uses; what was there is kept, and its name given back.

    The file is a stranger's until it is shown otherwise: it is only read, its own functions are not trusted, and its
    tables, views and triggers must be exactly those that a version of this program makes. What it has is then carried
    into a file of our own. Every round that was going rests. Raises CopyRefused.
    """
    if ledger.exists() and stranger.exists() and os.path.samefile(ledger, stranger):
        raise CopyRefused(f'"{stranger}" is the ledger itself.', "Choose a copy of it.")
    with _nobody_else(ledger):
        made = Path(f"{ledger}.put-back-{os.getpid()}")
        try:
            _carry_over(stranger, made)
            _set_at_rest(made)
            kept = _keep_what_was(ledger)
            for beside in ("-wal", "-shm"):
                Path(f"{ledger}{beside}").unlink(missing_ok=True)
            os.replace(made, ledger)
        except sqlite3.Error as fault:
            raise CopyRefused(f'"{stranger}" cannot be read as a ledger: {fault}.', "Take another copy.") from fault
        except OSError as fault:
            raise CopyRefused(f"The copy could not be put back: {fault}.") from fault
        finally:
            for ending in ("", "-wal", "-shm", ".opening"):
                Path(f"{made}{ending}").unlink(missing_ok=True)
    return kept


@contextmanager
def _nobody_else(ledger: Path) -> Iterator[None]:
    """Holds a ledger that no process of the program uses. Raises CopyRefused."""
    ledger.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    try:
        with FileLock(f"{ledger}.opening", mode=_PRIVATE, timeout=0):
            if is_served(ledger) or _somebody_sends(ledger):
                raise CopyRefused("The program is running with this ledger.", "End it first, its sender as well.")
            yield
    except Timeout as fault:
        raise CopyRefused("The program is just starting with this ledger.", "End it first.") from fault


def _somebody_sends(ledger: Path) -> bool:
    if not ledger.exists():
        return False
    with contextlib.suppress(Exception):
        database = Database(ledger)
        try:
            with database.reading() as session:
                return any(seen(turn.process) in {Seen.RUNS, Seen.STOPPED} for turn in turns(session))
        finally:
            database.close()
    # What cannot be read as a ledger is sent from by nobody.
    return False


def _address_of(path: Path) -> str:
    """A file to be read only, and without a write-ahead log of its own nothing is written beside it either."""
    log = Path(f"{path}-wal")
    alone = not log.exists() or log.stat().st_size == 0
    return f"file:{quote(str(path))}?mode=ro{'&immutable=1' if alone else ''}"


def _look_at(path: Path) -> sqlite3.Connection:
    look = sqlite3.connect(_address_of(path), uri=True, isolation_level=None)
    look.execute("PRAGMA trusted_schema=OFF")
    look.execute("PRAGMA cell_size_check=ON")
    return look


def _schema(look: sqlite3.Connection) -> set[tuple[str, str, str, str]]:
    """All that a file defines but SQLite's own, each as it is written."""
    found = look.execute("SELECT type, name, tbl_name, coalesce(sql, '') FROM sqlite_master")
    return {(kind, name, of, " ".join(sql.split())) for kind, name, of, sql in found if not name.startswith("sqlite_")}


def _carry_over(stranger: Path, to: Path) -> None:
    if not stranger.is_file():
        raise CopyRefused(f'"{stranger}" is no file.')
    if stranger.stat().st_size == 0:
        raise CopyRefused(f'"{stranger}" is empty.', "Take another copy.")
    with closing(_look_at(stranger)) as look:
        _refuse_damaged(look, stranger)
        names = {name for (name,) in look.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if "alembic_version" not in names:
            raise CopyRefused(f'"{stranger}" is no ledger of this program.', "Take a copy that it made.")
        versions = [version for (version,) in look.execute("SELECT version_num FROM alembic_version")]
        ours = _made_anew(to, versions)
        if _schema(look) != ours:
            raise CopyRefused(
                f'"{stranger}" has tables, views or triggers that no version of this program makes.',
                "Take a copy that the program made, as it made it.",
            )
    with closing(sqlite3.connect(f"file:{quote(str(to))}", uri=True, isolation_level=None)) as copy:
        copy.execute("PRAGMA trusted_schema=OFF")
        copy.execute("PRAGMA foreign_keys=OFF")
        copy.execute("ATTACH ? AS stranger", (_address_of(stranger),))
        triggers = copy.execute("SELECT name, sql FROM main.sqlite_master WHERE type = 'trigger'").fetchall()
        copy.execute("BEGIN IMMEDIATE")
        for name, _ in triggers:
            copy.execute(f'DROP TRIGGER "{name}"')
        for table, columns in _tables(copy):
            listed = ", ".join(f'"{column}"' for column in columns)
            copy.execute(f'DELETE FROM main."{table}"')
            copy.execute(f'INSERT INTO main."{table}" ({listed}) SELECT {listed} FROM stranger."{table}"')
        for _, sql in triggers:
            copy.execute(sql)
        copy.execute("COMMIT")
        copy.execute("DETACH stranger")
        _refuse_damaged(copy, stranger)
    database = Database(to)
    try:
        database.migrate()
    finally:
        database.close()


def _tables(copy: sqlite3.Connection) -> list[tuple[str, list[str]]]:
    names = [name for (name,) in copy.execute("SELECT name FROM main.sqlite_master WHERE type = 'table'")]
    plain = [name for name in names if name == "sqlite_sequence" or not name.startswith("sqlite_")]
    return [(name, [row[1] for row in copy.execute(f'PRAGMA main.table_info("{name}")')]) for name in plain]


def _made_anew(to: Path, versions: list[object]) -> set[tuple[str, str, str, str]]:
    """Makes the tables of a released version of ours in a new file, and says what it defines."""
    known = released_versions()
    if len(versions) != 1 or versions[0] not in known:
        raise CopyRefused(
            "The copy was made by a newer version of this program.", "Start that version, or a newer one."
        )
    with tempfile.TemporaryDirectory() as folder:
        made = Database(Path(folder) / "made.sqlite3")
        made.migrate(str(versions[0]))
        made.leave_tidy()
        os.close(os.open(to, os.O_RDWR | os.O_CREAT | os.O_EXCL, _PRIVATE))
        to.write_bytes(made.path.read_bytes())
    with closing(_look_at(to)) as look:
        return _schema(look)


def released_versions() -> set[str]:
    """The forms that a ledger has had in any version of this program."""
    folder = Path(__file__).parent / "migrations" / "versions"
    return {path.name[:4] for path in folder.glob("[0-9]*.py")}


def _set_at_rest(made: Path) -> None:
    database = Database(made)
    why = f"{OLDER().sentence}."
    try:
        with database.writing() as session:
            for found in session.scalars(select(Round).where(Round.stage.in_((Stage.SENDING, Stage.PAUSED)))):
                found.look_first = why
                if found.stage == Stage.SENDING:
                    step_stage(found, Stage.PAUSED, why)
    finally:
        database.leave_tidy()


def _keep_what_was(ledger: Path) -> Path | None:
    """What lies in the place of the ledger is kept, whatever it is: with its write-ahead log where it can be read."""
    if not ledger.exists():
        return None
    kept = Path(f"{ledger}.before-{time.strftime('%Y%m%d-%H%M%S')}")
    try:
        return save_copy(ledger, kept).path
    except CopyRefused:
        # It is damaged, which may be why a copy is put back: it is kept as it lies there.
        for ending in ("", "-wal"):
            beside = Path(f"{ledger}{ending}")
            if beside.exists():
                Path(f"{kept}{ending}").write_bytes(beside.read_bytes())
                Path(f"{kept}{ending}").chmod(_PRIVATE)
        return kept
