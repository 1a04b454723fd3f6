"""The loop that runs the sender: in one process only, act after act, with a rest where there is nothing to do."""

import contextlib
import logging
import threading
from collections.abc import Callable

from filelock import Timeout

from gentle_ledger.core.pace.decide import Send, Wait
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.errors import cannot_write, trouble_in
from gentle_ledger.store.senders import say_present, sender_lock, this_process

log = logging.getLogger(__name__)

_LOOK_EVERY = 1.0
"""Seconds after which the sender looks for work even if nobody rang."""
_STANDING_BY = 0.1
"""Seconds after which another process looks whether the one that sends is gone."""
_LONGEST_REST = 10.0
"""Seconds after which an act that failed is tried again at the latest, so that room on a disk is noticed soon."""


KeepsOn = Callable[[bool, bool], bool]
"""Whether a sender is still wanted: told whether it is the one that sends, and whether there is nothing to do."""


def for_good(_sends: bool, _idle: bool) -> bool:
    """Wanted until it is told to end."""
    return True


class Loop:
    """Runs the sender of a database in the one process that has its lock. `woken` ends a rest at once.

    Args:
        settings: stands for all that the sender was set to.
        keeps_on: whether it is still wanted, asked again and again.

    Attributes:
        process: names the process, for others.
        trouble: what keeps the sender itself from its work, such as a full disk, as a sentence; "" when nothing does.
    """

    def __init__(self, sender: Sender, settings: str = "", keeps_on: KeepsOn = for_good) -> None:
        self.sender = sender
        self.settings = settings
        self._keeps_on = keeps_on
        self.woken = threading.Event()
        self.trouble = ""
        self.process = this_process()
        self._lock = sender_lock(sender.database.path)
        self._stop = threading.Event()

    @property
    def has_the_lock(self) -> bool:
        """True in the one process that may send from this database."""
        return bool(self._lock.is_locked)

    def take_lock(self) -> bool:
        """The lock is the operating system's: it ends with the process, however the process ends."""
        if not self._lock.is_locked:
            try:
                self._lock.acquire(timeout=0)
            except Timeout:
                return False
            # Another process may have handed over until now: its last text and its waits count for us.
            self.sender.begin()
            self.say_present()
        return True

    def release_lock(self) -> None:
        """Lets another process send."""
        self._lock.release()

    def say_present(self) -> None:
        """Says in the store that this process sends, and what hinders it."""
        with self.sender.database.writing() as session:
            say_present(session, self.process, self.trouble, self.settings)

    def run(self) -> None:
        """Sends until `stop` is called. An error in one act is said; the next begins with what it left Going."""
        rest, idle = _LOOK_EVERY, True
        try:
            while not self._stop.is_set() and self._keeps_on(self.has_the_lock, idle):
                try:
                    decision, pause = None, _STANDING_BY
                    if self.take_lock():
                        decision = self.sender.act()
                        pause = self._pause_after(decision)
                    idle = decision is None
                    self._say("")
                    rest = _LOOK_EVERY
                except Exception as fault:
                    self._say(trouble_in(fault), fault)
                    pause, rest = rest, min(_LONGEST_REST, 2 * rest)
                if pause > 0:
                    self.sender.clock.wait(self.woken, pause)
                self.woken.clear()
        finally:
            self.release_lock()

    def stop(self) -> None:
        """Ends the loop after the act that is under way."""
        self._stop.set()
        self.woken.set()

    def _say(self, trouble: str, fault: Exception | None = None) -> None:
        if trouble == self.trouble:
            return
        self.trouble = trouble
        if fault:
            log.error("An act of the sender failed; it looks again by itself.", exc_info=fault)
        self.sender.signal.trouble = trouble
        # A full disk is what it would say, and what keeps it from being written down.
        if fault is None or cannot_write(fault) is None:
            with contextlib.suppress(Exception):
                self.say_present()
        self.sender.signal.tell()

    def _pause_after(self, decision: Send | Wait | None) -> float:
        if isinstance(decision, Send):
            return 0.0
        if isinstance(decision, Wait) and decision.until is not None:
            return min(_LOOK_EVERY, max(0.0, decision.until - self.sender.clock.monotonic()))
        return _LOOK_EVERY
