"""The program put together: the ledger, the sender beside it, and the interface. They meet in the store alone."""

import threading
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, nullcontext
from dataclasses import dataclass

from fastapi import FastAPI

from gentle_ledger.app.counting.pool import Pool
from gentle_ledger.sending.lines import Line
from gentle_ledger.sending.lines.oma_messaging import KIND
from gentle_ledger.sending.lines.registry import line_of
from gentle_ledger.sending.loop import Loop
from gentle_ledger.sending.rehearsal import RehearsalRunner
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.clock import Clock, SystemClock
from gentle_ledger.store.database import Database
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.web.app import create_app
from gentle_ledger.web.settings import Settings


@dataclass
class Program:
    """What runs: `app` serves, `loop` sends. Tests have the loop's sender act by hand."""

    settings: Settings
    database: Database
    app: FastAPI
    loop: Loop


def assemble(
    settings: Settings,
    line: Line | None = None,
    clock: Clock | None = None,
    *,
    send: bool = True,
    pool: Pool | None = None,
) -> Program:
    """Puts the program together.

    Args:
        settings: where things are kept and who the carrier is.
        line: the way out; by default the one that the settings name.
        clock: where time comes from.
        send: whether the sender runs beside the interface; without, another process may be the sender.
        pool: the processes that count rows, where they are not to be the program's own.
    """
    clock = clock or SystemClock()
    database = Database(settings.data)
    database.migrate()
    signal = ChangeSignal()
    loop = Loop(Sender(database, line or default_line(settings, clock), clock, signal, office=settings.zone))
    own = Pool()
    counting = own.running() if pool is None else nullcontext()
    sending = _sending(loop, signal, settings) if send else nullcontext()
    rehearsals = RehearsalRunner(database, settings.sender, clock, settings.zone)
    app = create_app(settings, database, clock, signal, pool or own, rehearsals, _both(counting, sending))
    return Program(settings, database, app, loop)


def default_line(settings: Settings, clock: Clock) -> Line:
    """The line that the settings name."""
    chosen = {
        "base_url": settings.carrier_url,
        "sender": settings.sender,
        "timeout": settings.carrier_timeout,
        "settles_after": settings.settles_after,
        **settings.terms.model_dump(),
    }
    return line_of(KIND, chosen, clock.now)


@contextmanager
def _both(counting: AbstractContextManager[None], sending: AbstractContextManager[None]) -> Iterator[None]:
    """What runs for as long as the interface is served."""
    with counting, sending:
        yield


@contextmanager
def _sending(loop: Loop, signal: ChangeSignal, settings: Settings) -> Iterator[None]:
    """The sender's thread; whoever writes wakes it."""
    thread = threading.Thread(target=loop.run, name="sender", daemon=True)
    with signal.listening(loop.woken.set):
        thread.start()
        yield
        loop.stop()
        thread.join(settings.carrier_timeout + 5)
