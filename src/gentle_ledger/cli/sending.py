"""The sender as a process of its own, and who starts it and watches over it."""

import contextlib
import hashlib
import json
import logging
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from gentle_ledger import __version__
from gentle_ledger.sending.lines import Line, facts_of
from gentle_ledger.sending.lines.oma_messaging import KIND
from gentle_ledger.sending.lines.registry import line_of
from gentle_ledger.sending.loop import Loop, for_good
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.clock import Clock, SystemClock
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NO_TROUBLE, Trouble, trouble_in
from gentle_ledger.store.lines import begin_use, line_record
from gentle_ledger.store.places import refuse_where_one_was
from gentle_ledger.store.processes import (
    Seen,
    end_surely,
    is_ours,
    process_id,
    seen,
    tell_to_end,
    was_left_behind,
    who_locks,
)
from gentle_ledger.store.senders import LineTurn, sender_lock, turns
from gentle_ledger.store.serving import is_served, was_ended
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.store.watch import watching
from gentle_ledger.store.witness import Witness
from gentle_ledger.web.settings import PREFIX, Settings

log = logging.getLogger(__name__)

ALONE = 60.0
"""Seconds that a sender waits for the interface to be served again: a restart takes a few."""
_LOOK_EVERY = 0.2
_STAYS = 2.0
"""Seconds after which a sender that ended did not end as it began."""
_LONGEST_REST = 10.0
BEGUN = "begun"
"""What a sender tells whoever started it, once nothing keeps it from beginning."""
_AT_ONCE = "A sender ends as soon as it begins. Start the program anew; the log has more"
_ENDS_WITHIN = 20.0
"""Seconds for a sender of an earlier version to end what it has in hand."""
APART = " apart"
"""What the settings of a sender end in that was not started by a server."""


def default_line(settings: Settings, clock: Clock) -> Line:
    """The line that the settings name."""
    chosen = {
        "base_url": settings.carrier_url,
        "sender": settings.sender,
        "timeout": settings.carrier_timeout,
        "settles_after": settings.settles_after,
        "remembers": settings.carrier_remembers,
        **settings.terms.model_dump(),
    }
    return line_of(KIND, chosen, clock.now)


def note_line(database: Database, line: Line, clock: Clock) -> int:
    """The line that rounds go by is on record, with its terms, before any sender has begun to use it; its number."""
    with database.writing() as session:
        record = line_record(session, facts_of(line))
        begin_use(record, clock.now())
        return record.id


def fingerprint_of(settings: Settings) -> str:
    """Stands for all that a sender goes by, its version included: another one has to take over where it differs."""
    kept = settings.model_dump(mode="json", exclude={"host", "port"})
    return hashlib.sha256(json.dumps([__version__, kept], sort_keys=True).encode()).hexdigest()


class Wanted:
    """Whether a sender that was started with the interface is still wanted.

    It outlives a restart of the interface, and one that died in the middle of a round: the round goes on. Where the
    interface was ended and does not come back, or where there is nothing to do, it ends after a while.
    """

    def __init__(self, settings: Settings, server: int) -> None:
        self._path = settings.data
        # Told, and not looked up: the server may be gone by the time that this process gets to it.
        self._started_by = server
        self._looked_at = float("-inf")
        self._alone_since: float | None = None

    def __call__(self, sends: bool, idle: bool) -> bool:
        """See `KeepsOn`."""
        if not sends and os.getppid() != self._started_by:
            return False
        now = time.monotonic()
        if now - self._looked_at >= 1.0:
            self._looked_at = now
            if is_served(self._path):
                self._alone_since = None
            elif self._alone_since is None:
                self._alone_since = now
        alone = self._alone_since is not None and now - self._alone_since >= ALONE
        return not (alone and (idle or was_ended(self._path)))


def run_sender(settings: Settings, *, server: int | None = None, begun: Callable[[], None] = lambda: None) -> None:
    """Sends from the ledger until it is told to end; of several senders of one ledger one sends at a time.

    `server` is the process that started it, which serves the interface and has brought the ledger up to date. `begun`
    is called once nothing keeps it from beginning.
    """
    if server is None:
        refuse_where_one_was(settings.data, settings.state)
    database = Database(settings.data)
    if server is None:
        database.migrate()
    clock = SystemClock()
    sender = Sender(
        database,
        default_line(settings, clock),
        clock,
        ChangeSignal(),
        office=settings.zone,
        witness=Witness(settings.data, settings.state),
        settings=fingerprint_of(settings) + (APART if server is None else ""),
    )
    loop = Loop(sender, for_good if server is None else Wanted(settings, server))
    begun()
    print(f"Sending from {settings.data}", flush=True)
    with _told_to_end(loop.stop), watching(database, loop.woken.set):
        loop.run()
    if database.displaced:
        # Nothing is closed properly: SQLite would clear away the files of the one that lies there now.
        print(loop.trouble, file=sys.stderr, flush=True)
        os._exit(2)
    database.leave_tidy()


@contextmanager
def _told_to_end(stop: Callable[[], None]) -> Iterator[None]:
    """Has `stop` called, on a thread of its own, once this process is told to end.

    The handler of a signal runs in the midst of whatever the main thread does: what takes a lock there can wait for
    itself for ever. So it does nothing, and the number of the signal is read from a pipe (`signal.set_wakeup_fd`).
    """
    reading, writing = os.pipe()
    os.set_blocking(writing, False)
    before = signal.set_wakeup_fd(writing, warn_on_full_buffer=False)

    def listen() -> None:
        while number := os.read(reading, 1):
            if number[0] in {signal.SIGTERM, signal.SIGINT}:
                stop()

    for each in (signal.SIGTERM, signal.SIGINT):
        signal.signal(each, lambda *_: None)
    thread = threading.Thread(target=listen, name="told to end", daemon=True)
    thread.start()
    try:
        yield
    finally:
        signal.set_wakeup_fd(before)
        os.close(writing)
        thread.join()
        os.close(reading)


def as_environment(settings: Settings) -> dict[str, str]:
    """Settings as a process of the program reads them."""
    kept = settings.model_dump(mode="json", exclude_none=True)
    return {
        f"{PREFIX}{name}".upper(): value if isinstance(value, str) else json.dumps(value)
        for name, value in kept.items()
    }


class SenderWatch:
    """Starts the sender, and another one that stands by; begins a new one whenever one of them ends.

    A sender that an earlier server of the same settings left behind goes on; one of other settings is told to end, so
    that what was set counts.

    Args:
        settings: those of the server.
        database: its ledger.
        line_id: the record of its line.
        signal: hears why no sender can begin.
        bound: whether the senders are to end with this process, however it ends.
    """

    def __init__(
        self, settings: Settings, database: Database, line_id: int, signal: ChangeSignal, *, bound: bool = False
    ) -> None:
        self._settings = settings
        self._line_id = line_id
        self._database = database
        self._signal = signal
        self._bound = bound
        self._stop = threading.Event()
        self._children: list[_Started] = []
        self._rest = 0.0
        self._not_before = 0.0

    @contextmanager
    def running(self) -> Iterator[None]:
        """Watches for as long as this lasts; `end` says what becomes of the senders after it."""
        thread = threading.Thread(target=self._watch, name="sender watch", daemon=True)
        thread.start()
        try:
            yield
        finally:
            self._stop.set()
            thread.join()

    def end(self, within: float) -> None:
        """Tells the senders to end, also one that an earlier server left behind, and waits for it, so many seconds.

        One that was started apart goes on.
        """
        for started in self._children:
            started.process.terminate()
        until = time.monotonic() + within
        for started in self._children:
            try:
                started.process.wait(max(0.1, until - time.monotonic()))
            except subprocess.TimeoutExpired:
                # It hangs, or waits for its carrier. What it had in hand is asked about by the next one.
                started.process.kill()
                started.process.wait()
        # Where one ends, another that somebody left behind may take its turn.
        while not (self._database.displaced or is_served(self._settings.data)) and time.monotonic() < until + _STAYS:
            left = [turn for turn in self._turns() if not _is_apart(turn) and tell_to_end(turn.process)]
            if not left:
                break
            for turn in left:
                while seen(turn.process) is not Seen.GONE and time.monotonic() < until:
                    time.sleep(_LOOK_EVERY)
                end_surely(turn.process)
            time.sleep(_LOOK_EVERY)

    def _turns(self) -> list[LineTurn]:
        """The senders that have the turn of a line of this ledger, and run where they can be seen from here."""
        with self._database.reading() as session:
            return [turn for turn in turns(session) if seen(turn.process) in {Seen.RUNS, Seen.STOPPED}]

    def _holder(self) -> int | None:
        """The process that sends by the line of these settings at present, where it runs on this machine."""
        return next((_number(turn) for turn in self._turns() if turn.line_id == self._line_id), None)

    def _watch(self) -> None:
        try:
            self._end_earlier_ones()
        except Exception as fault:
            log.error("A sender that was left behind could not be told to end.", exc_info=fault)
        while not self._stop.is_set():
            try:
                self._look()
            except Exception as fault:
                log.error("The sender cannot be watched at present.", exc_info=fault)
                self._cannot_begin(trouble_in(fault))
                self._stop.wait(1.0)
            self._stop.wait(_LOOK_EVERY)

    def _end_earlier_ones(self) -> None:
        """Of other settings, or of another line whose server is gone: so that what was set counts.

        One of a server that still runs beside this one goes on by its own line, and so does one that was started apart.
        """
        for turn in self._turns():
            settings = turn.settings.removesuffix(APART)
            mine = turn.line_id == self._line_id and settings != fingerprint_of(self._settings)
            if mine or (turn.line_id != self._line_id and _was_left_behind(turn)):
                tell_to_end(turn.process)
        end_earlier_version(self._settings.data)

    def _look(self) -> None:
        if self._database.displaced:
            # Another one would send from the file that lies there now, beside a page that shows this one.
            for started in self._children:
                started.process.terminate()
            return
        now = time.monotonic()
        ended = [each for each in self._children if each.process.poll() is not None]
        self._children = [each for each in self._children if each not in ended]
        for each in ended:
            stayed = now - each.at > _STAYS
            # What cannot even begin is not tried five times a second.
            self._rest = 0.0 if stayed else min(_LONGEST_REST, max(0.5, 2 * self._rest))
            self._not_before = now + self._rest
            told = each.told()
            if told != BEGUN and each.process.returncode:
                self._cannot_begin(told or f"{_AT_ONCE} (code {each.process.returncode}).")
            each.close()
        if self._signal.no_sender.reason and any(each.told() == BEGUN for each in self._children):
            self._signal.no_sender = NO_TROUBLE
            self._signal.tell()
        holder = self._holder() if len(self._children) == 1 else None
        enough = 1 if holder and holder not in {each.process.pid for each in self._children} else 2
        if len(self._children) < enough and now >= self._not_before:
            self._children.append(self._begin())

    def _cannot_begin(self, why: str) -> None:
        """Says why none can begin, and since when."""
        if self._signal.no_sender.reason != why:
            since = self._signal.no_sender.since or datetime.now(UTC).replace(microsecond=0)
            self._signal.no_sender = Trouble(why, since)
            log.error("No sender can begin: %s", why)
            self._signal.tell()

    def _begin(self) -> "_Started":
        reading, writing = os.pipe()
        command = [sys.executable, "-m", "gentle_ledger.cli", "sender", "--with-server", str(os.getpid())]
        command += ["--tells", str(writing)]
        try:
            process = subprocess.Popen(
                [*command, "--with-parent"] if self._bound else command,
                env={**os.environ, **as_environment(self._settings)},
                stdin=subprocess.PIPE if self._bound else subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                # A key that ends the server in its window is not for the sender: the server tells it.
                start_new_session=True,
                pass_fds=(writing,),
            )
        except BaseException:
            os.close(reading)
            raise
        finally:
            os.close(writing)
        return _Started(time.monotonic(), process, reading)


class _Started:
    """A sender that was started: when, its process, and the end of a pipe where it tells `BEGUN`, or why it cannot."""

    def __init__(self, at: float, process: subprocess.Popen[bytes], tells: int) -> None:
        self.at = at
        self.process = process
        self._tells = tells
        self._told = b""
        os.set_blocking(tells, False)

    def told(self) -> str:
        """What it told until now."""
        with contextlib.suppress(BlockingIOError):
            while more := os.read(self._tells, 4096):
                self._told += more
        return self._told.decode(errors="replace")

    def close(self) -> None:
        """Lets the pipe go."""
        os.close(self._tells)


def _was_left_behind(turn: LineTurn) -> bool:
    return not _is_apart(turn) and was_left_behind(turn.process)


def _is_apart(turn: LineTurn) -> bool:
    return turn.settings.endswith(APART)


def end_earlier_version(ledger: Path) -> None:
    """Ends a sender of an earlier version that outlived its server; it knows of no turn, and would keep all others out.

    It is told by the lock that it alone holds: those of this version share it.
    """
    lock = sender_lock(ledger)
    for told in (signal.SIGTERM, signal.SIGKILL):
        until = time.monotonic() + _ENDS_WITHIN
        if (process := who_locks(lock)) is None or not is_ours(process):
            return
        with contextlib.suppress(ProcessLookupError, PermissionError):
            os.kill(process, told)
        while who_locks(lock) == process and time.monotonic() < until:
            time.sleep(_LOOK_EVERY)


def _number(turn: LineTurn) -> int | None:
    return process_id(turn.process)
