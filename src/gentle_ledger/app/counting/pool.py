"""The counting processes as the program sees them: which one has a round, and what to do when one is gone."""

import pickle
import subprocess
import sys
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any

from gentle_ledger.app.counting import process
from gentle_ledger.app.counting.jobs import Job
from gentle_ledger.app.counting.messages import Answer, End, HowFar, Request
from gentle_ledger.app.open_rounds import KEPT
from gentle_ledger.app.superseded import Superseded

MOST = 2
"""Processes at most: the count of a large round does not keep the one of another round waiting."""
_LOOK_UP = 0.2
"""Seconds between two looks whether who waits for a turn is still needed."""
_PATIENCE = 5
"""Seconds a process gets to end by itself."""

Place = tuple[Path, int, str]
"""A round: its file, its number in that, and the zone (IANA) of the office by whose clocks it is read."""


class ProcessGone(Exception):
    """The process ended, or says what is no answer."""


@dataclass
class _Process:
    """One process, started when it is first needed, and anew when it is gone."""

    rounds: OrderedDict[Place, None] = field(default_factory=OrderedDict)
    percent: dict[Place, int] = field(default_factory=dict)
    turn: threading.Lock = field(default_factory=threading.Lock)
    _sending: threading.Lock = field(default_factory=threading.Lock)
    _running: subprocess.Popen[bytes] | None = None
    _asked: int = 0
    _current: tuple[int, Place, int] | None = None

    def start(self) -> subprocess.Popen[bytes]:
        if self._running is None:
            command = [sys.executable, "-I", "-m", process.__name__]
            self._running = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
        return self._running

    def ask(self, place: Place, version: int, now: datetime, job: Job[Any]) -> Answer:
        """The answer to one job; only who has the turn may ask. Raises ProcessGone."""
        self._asked += 1
        self._current = (self._asked, place, version)
        try:
            running = self.start()
            self._send(Request(self._asked, *place, version, now, job))
            while True:
                found = pickle.load(running.stdout)  # type: ignore[arg-type]
                if isinstance(found, Answer):
                    return found
                if isinstance(found, HowFar):
                    self.percent[place] = found.percent
        except (EOFError, OSError, ValueError, pickle.UnpicklingError) as fault:
            self.stop(patience=0)
            raise ProcessGone() from fault
        except BaseException:
            # What is on its way back would be taken for the answer to the next job.
            self.stop(patience=0)
            raise
        finally:
            self._current = None
            self.percent.pop(place, None)

    def end(self, place: Place, version: int) -> None:
        """Ends the job on a round if it is at work on that version of it, or an older one."""
        current = self._current
        if current is not None and current[1] == place and current[2] <= version:
            # A process that is gone has ended it.
            with suppress(EOFError, OSError, ValueError):
                self._send(End(current[0]))

    def _send(self, what: Request | End) -> None:
        running = self._running
        if running is None:
            raise EOFError
        with self._sending:
            pipe = running.stdin
            pickle.dump(what, pipe, protocol=5)  # type: ignore[arg-type]
            pipe.flush()  # type: ignore[union-attr]

    def stop(self, patience: float = _PATIENCE) -> None:
        """Ends the process, by force after so many seconds."""
        running, self._running = self._running, None
        if running is None:
            return
        with suppress(OSError):
            running.stdin.close()  # type: ignore[union-attr]
        try:
            running.wait(patience)
        except subprocess.TimeoutExpired:
            running.kill()
            running.wait()
        running.stdout.close()  # type: ignore[union-attr]


class Pool:
    """A few counting processes. Each round stays with one of them, so that its sheet is read once."""

    def __init__(self, most: int = MOST) -> None:
        self._processes = [_Process() for _ in range(most)]
        self._guard = threading.Lock()
        self._closed = False

    @contextmanager
    def running(self) -> Iterator[None]:
        """Starts the first process ahead of its first job, for that takes a second, and ends all of them in the end."""
        self._processes[0].start()
        try:
            yield
        finally:
            self.close()

    def ask(self, place: Place, version: int, now: datetime, job: Job[Any], current: Callable[[], bool]) -> Answer:
        """The answer to a job on a round at a version, asked once more if the process is gone meanwhile.

        Raises Superseded when `current` tells that nobody needs it any more, and ProcessGone when it ends twice, or
        after `close`.
        """
        known = self._with(place)
        # Whoever is not needed any more does not wait for the turn: that would keep a thread from the next key.
        while not known.turn.acquire(timeout=_LOOK_UP):
            if not current():
                raise Superseded()
        try:
            return self._asked(known, place, version, now, job, current)
        finally:
            known.turn.release()

    def _asked(
        self, known: _Process, place: Place, version: int, now: datetime, job: Job[Any], current: Callable[[], bool]
    ) -> Answer:
        died = None
        for _ in range(2):
            if not current():
                raise Superseded()
            if self._closed:
                break
            try:
                return known.ask(place, version, now, job)
            except ProcessGone as fault:
                died = fault
        raise died or ProcessGone()

    def end(self, place: Place, version: int) -> None:
        """Ends the job on a round at that version, or an older one."""
        if known := self._having(place):
            known.end(place, version)

    def percent(self, place: Place) -> int:
        """How far the job on a round is; 0 where that is not known."""
        known = self._having(place)
        return known.percent.get(place, 0) if known else 0

    def close(self) -> None:
        """Ends all processes; none is started any more."""
        self._closed = True
        for each in self._processes:
            each.stop()

    def _with(self, place: Place) -> _Process:
        """The process that has the round, or the one with the fewest rounds; a few rounds share one."""
        with self._guard:
            found = self._having(place) or min(self._processes, key=lambda each: len(each.rounds))
            found.rounds[place] = None
            found.rounds.move_to_end(place)
            while len(found.rounds) > KEPT:
                found.rounds.popitem(last=False)
            return found

    def _having(self, place: Place) -> _Process | None:
        return next((each for each in self._processes if place in each.rounds), None)
