"""The counting process: it takes one job after the other from standard input, and answers on standard output.

What goes to and fro is pickled, for both ends are this program; see `messages`. The process ends when its standard
input does.
"""

import _thread
import functools
import gc
import os
import pickle
import queue
import signal
import sys
import threading
import time
import traceback
from collections import OrderedDict
from contextlib import suppress
from pathlib import Path
from types import FrameType
from typing import IO

import gentle_ledger
from gentle_ledger.app.counting.at_hand import FileAtHand
from gentle_ledger.app.counting.messages import Answer, End, HowFar, Outcome, Request
from gentle_ledger.app.faults import told_discreetly
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.store.errors import CANNOT_BE_OPENED, CannotWrite, cannot_write

_LESS_URGENT = 5
"""How much this process is nicer than the others (nice(1)): whoever waits at a key or hands over goes first."""
_BETWEEN = 0.2
"""Seconds between two words on how far a job is."""
_IDLE = 1.0
"""Seconds without a job after which there is time to look for objects that nobody needs any more."""
_MOST_JOBS = 50
"""Jobs after which that is done all the same."""
_FILES = 4
"""Ledger files that are kept open; the program has one, its tests have many."""
_AGAIN = 0.002
"""Seconds after which it is tried again to break a job off."""
_PACKAGE = Path(gentle_ledger.__file__).parent
_OURS = (f"{_PACKAGE / 'core'}{os.sep}", f"{_PACKAGE / 'app'}{os.sep}", functools.__file__, "<string>")
"""Where code may be left at any place: ours that only computes, and what is made for it of its classes."""


class Ended(BaseException):
    """Raised in the midst of a job that need not be finished. No `except Exception` on the way may keep it."""


def may_be_left(frame: FrameType | None) -> bool:
    """True where a job can be broken off: nothing but our own computing is under way in it.

    A library that is left at any place may keep a lock for good, and a connection its transaction: the process would
    hang, or fail at another job.
    """
    while frame is not None and frame.f_code is not Worker.work_on.__code__:
        if not frame.f_code.co_filename.startswith(_OURS):
            return False
        frame = frame.f_back
    return frame is not None


class Worker:
    """Works jobs off in the main thread; two more threads take requests in, and say how far the job is."""

    def __init__(self, taken: IO[bytes], given: IO[bytes]) -> None:
        self._taken = taken
        self._given = given
        self._giving = threading.Lock()
        self._waiting: queue.SimpleQueue[Request] = queue.SimpleQueue()
        self._files: OrderedDict[tuple[Path, str], FileAtHand] = OrderedDict()
        self._ended = -1
        self._may_be_ended: int | None = None
        self._working_on: OpenRound | None = None
        self._since_collected = 0

    def run(self) -> None:
        """Works until standard input ends."""
        for each in (signal.SIGINT, signal.SIGALRM):
            signal.signal(each, self._interrupted)
        for work in (self._take_in, self._say_how_far):
            threading.Thread(target=work, daemon=True).start()
        # In the midst of a count a collection goes through the whole sheet for nothing: that is left for afterwards.
        gc.disable()
        while True:
            answer = self._answer(self._next())
            with self._giving:
                self._working_on = None
                self._give(answer)

    def _next(self) -> Request:
        """The next request. While none comes, what nobody needs any more is collected."""
        self._since_collected += 1
        if self._since_collected < _MOST_JOBS:
            with suppress(queue.Empty):
                return self._waiting.get(timeout=_IDLE)
        gc.collect()
        self._since_collected = 0
        return self._waiting.get()

    def _take_in(self) -> None:
        try:
            while True:
                found = pickle.load(self._taken)
                if isinstance(found, End):
                    self._ended = found.number
                    _thread.interrupt_main()
                else:
                    self._waiting.put(found)
        except EOFError:
            # Whoever asked is gone, perhaps in the midst of a job: nobody waits for the answer.
            os._exit(0)
        except Exception:
            traceback.print_exc()
            os._exit(1)

    def _interrupted(self, _number: int, frame: FrameType | None) -> None:
        """Ends the job that need not be finished. The keyboard's own interrupt is for the program, not for this."""
        if self._may_be_ended is None or self._may_be_ended != self._ended:
            return
        if not may_be_left(frame):
            signal.setitimer(signal.ITIMER_REAL, _AGAIN)
            return
        self._may_be_ended = None
        raise Ended()

    def _answer(self, request: Request) -> Answer:
        try:
            return self.work_on(request)
        except Ended:
            return Answer(Outcome.SUPERSEDED, None)
        except Exception as fault:
            told = fault if isinstance(fault, LedgerError) else cannot_write(fault)
            if told is None:
                return Answer(Outcome.FAILED, told_discreetly(fault))
            return Answer(Outcome.REFUSED, (type(told), vars(told)))

    def work_on(self, request: Request) -> Answer:
        """What comes of one job; where the round is at another version by now, that."""
        file = self._file(request.path, request.office)
        with file.database.reading() as session:
            at_hand = file.round_at(session, request.round_id, request.version, request.now)
        if at_hand is None:
            return Answer(Outcome.SUPERSEDED, None)
        self._working_on = at_hand.opened
        self._may_be_ended = request.number
        try:
            if self._ended == request.number:
                raise Ended()
            return Answer(Outcome.DONE, request.job.answer(at_hand))
        finally:
            self._may_be_ended = None

    def _file(self, path: Path, office: str) -> FileAtHand:
        key = (path, office)
        if key not in self._files:
            if not path.exists():
                # Opening it would make an empty one in its place.
                raise CannotWrite(*CANNOT_BE_OPENED)
            self._files[key] = FileAtHand(path, office)
        self._files.move_to_end(key)
        while len(self._files) > _FILES:
            self._files.popitem(last=False)[1].close()
        return self._files[key]

    def _say_how_far(self) -> None:
        while True:
            time.sleep(_BETWEEN)
            # Behind its answer nothing more may be said of a job: that would be taken for a word on the next one.
            with self._giving:
                opened = self._working_on
                if opened is not None and "composer" in vars(opened):
                    self._give(HowFar(min(99, int(100 * opened.composer.worked_out))))

    def _give(self, what: HowFar | Answer) -> None:
        """Writes to whoever asked; only who holds `_giving` may."""
        pickle.dump(what, self._given, protocol=5)
        self._given.flush()


def main() -> None:
    """Answers requests on standard input; whatever else is printed goes where errors go."""
    with suppress(OSError, AttributeError):
        os.nice(_LESS_URGENT)
    given = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    with suppress(BrokenPipeError):
        Worker(sys.stdin.buffer, given).run()


if __name__ == "__main__":
    main()
