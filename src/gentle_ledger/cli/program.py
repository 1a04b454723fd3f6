"""The program put together: the ledger and the interface, and the sender. They meet in the store alone."""

from collections.abc import Iterator
from contextlib import contextmanager, nullcontext, suppress
from dataclasses import dataclass

from fastapi import FastAPI

from gentle_ledger.app.counting.pool import Pool
from gentle_ledger.cli.sending import default_line, note_line
from gentle_ledger.sending.rehearsal import RehearsalRunner
from gentle_ledger.store.clock import Clock, SystemClock
from gentle_ledger.store.database import Database
from gentle_ledger.store.key import key_to_serve
from gentle_ledger.store.places import note_place, refuse_where_one_was
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.store.watch import watching
from gentle_ledger.web.app import create_app
from gentle_ledger.web.keyring import Keyring
from gentle_ledger.web.settings import Settings


@dataclass
class Program:
    """What is served: `signal` tells whoever looks at it that something changed; `line_id` is its line's record."""

    settings: Settings
    database: Database
    app: FastAPI
    signal: ChangeSignal
    line_id: int
    keyring: Keyring | None


def assemble(
    settings: Settings, clock: Clock | None = None, *, pool: Pool | None = None, keyed: bool = False
) -> Program:
    """Puts together what is served.

    Args:
        settings: where things are kept and who the carrier is.
        clock: where time comes from.
        pool: the processes that count rows, where they are not to be the program's own.
        keyed: whether it is an office's: only who has the key is let in, and it is not begun anew where it is gone.
    """
    clock = clock or SystemClock()
    if keyed:
        refuse_where_one_was(settings.data, settings.state)
    database = Database(settings.data)
    database.migrate()
    if keyed:
        with suppress(OSError):
            # A sender says where nothing can be written in that folder.
            note_place(settings.data, settings.state)
    line_id = note_line(database, default_line(settings, clock), clock)
    signal = ChangeSignal()
    own = Pool()
    rehearsals = RehearsalRunner(database, settings.sender, clock, settings.zone)
    beside = _beside(own if pool is None else None, database, signal)
    keyring = Keyring(key_to_serve(settings.data), settings.port) if keyed else None
    app = create_app(settings, database, clock, signal, pool or own, rehearsals, beside, keyring)
    return Program(settings, database, app, signal, line_id, keyring)


@contextmanager
def _beside(pool: Pool | None, database: Database, signal: ChangeSignal) -> Iterator[None]:
    """What runs for as long as the interface is served: who counts rows, and who hears of what the sender writes."""
    with pool.running() if pool else nullcontext(), watching(database, signal.tell):
        yield
