"""The loop that runs the sender: in one process only, act after act, with a rest where there is nothing to do."""

import contextlib
import fcntl
import logging
import os
import threading
import time
from collections.abc import Callable
from contextlib import AbstractContextManager
from datetime import timedelta
from enum import Enum
from pathlib import Path

from gentle_ledger.core.pace.decide import Send, Wait
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.errors import LOCKED, Displaced, locked, trouble_in
from gentle_ledger.store.presence import HUNG_AFTER, Presence, can_be_said, heard, say, silent_for
from gentle_ledger.store.processes import Seen, end_surely, seen, who_writes
from gentle_ledger.store.repeating import repeating
from gentle_ledger.store.senders import LineTurn, TurnLost, sender_lock

log = logging.getLogger(__name__)

_LOOK_EVERY = 1.0
"""Seconds after which the sender looks for work even if nobody rang."""
_STANDING_BY = 0.1
"""Seconds after which another process looks whether the one that sends is gone."""
_LONGEST_REST = 10.0
"""Seconds after which an act that failed is tried again at the latest, so that room on a disk is noticed soon."""
_SAY_EVERY = 1.0
"""Seconds between two words of a sender that it is there."""
_BESIDE_A_CALL = 8.0
"""Seconds that an act may take beside one call of its carrier before the sender itself is taken for hung."""
_ELSEWHERE = 30.0
"""Seconds without a word after which a sender that runs where nobody here sees it is taken for gone."""
_LOCKED_FOR = 2.0
"""Seconds that the sender waits for the ledger before it says so."""


KeepsOn = Callable[[bool, bool], bool]
"""Whether a sender is still wanted: told whether it is the one that sends, and whether there is nothing to do."""


def for_good(_sends: bool, _idle: bool) -> bool:
    """Wanted until it is told to end."""
    return True


class Before(Enum):
    """What became of the sender that had the turn before."""

    SENDS = "sends"
    ENDED = "ended"
    MAY_STILL_RUN = "may still run"


class Loop:
    """Runs the sender of a line in the one process that has its turn. `woken` ends a rest at once.

    Args:
        keeps_on: whether it is still wanted, asked again and again.

    Attributes:
        trouble: what keeps the sender itself from its work, such as a full disk, as a sentence; "" when nothing does.
    """

    def __init__(self, sender: Sender, keeps_on: KeepsOn = for_good) -> None:
        self.sender = sender
        self._keeps_on = keeps_on
        self.woken = threading.Event()
        self.trouble = ""
        self._since = ""
        self._locked_since = ""
        self._stopped = False
        self._moved_on_at = time.monotonic()
        self._quiet: tuple[object, float] = (None, time.monotonic())
        self._next: LineTurn | None = None
        self._gate = _Gate(sender_lock(sender.database.path))

    # --- the turn --------------------------------------------------------------------------------------------------

    @property
    def has_the_turn(self) -> bool:
        """True in the one process that may send by this line."""
        return self.sender.database.mine is not None

    def take_turn(self) -> bool:
        """Takes the turn where nobody has it, or whoever has it is gone or hangs; the latter is ended first."""
        if self.has_the_turn:
            return True
        # What an earlier try left open is said no more: somebody else may have the turn by now.
        self._next = None
        if not self._gate.open_for_us():
            return False
        before = self.sender.turn_now()
        became = self._became_of(before)
        if became is Before.SENDS:
            return False
        # Said first: one that hangs from here on is replaced as well.
        self._next = before._replace(turn=before.turn + 1)
        self._say_present()
        try:
            self.sender.begin(before, may_still_run=became is Before.MAY_STILL_RUN)
        except TurnLost:
            self._next = None
            return False
        self._next = None
        self._say_present()
        return True

    def _became_of(self, before: LineTurn) -> Before:
        """What became of the sender before; one that hangs is ended, for only then is nothing of it to come."""
        place = seen(before.process)
        # One of its own that could not begin, and could not even give the turn back, stands in nobody's way.
        if place is Seen.GONE or before.process == self.sender.process:
            return Before.ENDED
        path = self.sender.database.path
        word = (before, heard(path, before.line_id))
        if word != self._quiet[0]:
            self._quiet = (word, time.monotonic())
        unchanged = time.monotonic() - self._quiet[1]
        if place is Seen.ELSEWHERE:
            return Before.MAY_STILL_RUN if unchanged > _ELSEWHERE else Before.SENDS
        # One whose file was taken away says nothing either, once it hangs: then what is seen here counts.
        silent = max(silent_for(path, before), unchanged)
        # Where nothing can be said on the disk, silence means nothing, unless the process is seen to be stopped.
        if silent <= HUNG_AFTER or not (place is Seen.STOPPED or can_be_said(path)):
            return Before.SENDS
        log.error("The sender that had the turn has said nothing for %.0f s; it is ended.", silent)
        return Before.ENDED if end_surely(before.process) else Before.MAY_STILL_RUN

    def release_turn(self) -> None:
        """Lets another process send."""
        self.sender.give_back()

    # --- the run ---------------------------------------------------------------------------------------------------

    def run(self) -> None:
        """Sends until `stop` is called. An error in one act is said; the next begins with what it left Going."""
        rest, idle = _LOOK_EVERY, True
        with self._saying():
            try:
                while not self._stopped and self._keeps_on(self.has_the_turn, idle):
                    self._moved_on_at = time.monotonic()
                    try:
                        decision, pause = None, _STANDING_BY
                        if self.take_turn():
                            decision = self.sender.act()
                            pause = self._pause_after(decision)
                        idle = decision is None
                        self._say("")
                        rest = _LOOK_EVERY
                    except Displaced as fault:
                        self._say(fault.sentence, fault)
                        break
                    except TurnLost:
                        # Another one sends now; whatever was in hand is for it to settle.
                        self.sender.database.mine = None
                        pause = _STANDING_BY
                    except Exception as fault:
                        self._say(trouble_in(fault), fault)
                        pause, rest = rest, min(_LONGEST_REST, 2 * rest)
                    if pause > 0:
                        self.sender.clock.wait(self.woken, pause)
                    self.woken.clear()
            finally:
                with contextlib.suppress(Exception):
                    self.release_turn()
                self._gate.close()

    def stop(self) -> None:
        """Ends the loop after the act that is under way. Never from the handler of a signal: it takes a lock."""
        self._stopped = True
        self.woken.set()

    def _say(self, trouble: str, fault: Exception | None = None) -> None:
        if trouble == self.trouble or (trouble.startswith(LOCKED) and self.trouble.startswith(LOCKED)):
            self._locked_since = "" if not trouble else self._locked_since
            return
        self.trouble = trouble
        # What it waited for was said before it gave up waiting: it is the same trouble since then.
        since = (
            self._locked_since
            if trouble.startswith(LOCKED) and self._locked_since
            else self.sender.clock.now().isoformat()
        )
        self._since = since if trouble else ""
        self._locked_since = ""
        if fault:
            log.error("An act of the sender failed; it looks again by itself.", exc_info=fault)
        self.sender.signal.trouble = trouble
        self._say_present()
        self.sender.signal.tell()

    def _pause_after(self, decision: Send | Wait | None) -> float:
        if isinstance(decision, Send):
            return 0.0
        if isinstance(decision, Wait) and decision.until is not None:
            return min(_LOOK_EVERY, max(0.0, decision.until - self.sender.clock.monotonic()))
        return _LOOK_EVERY

    # --- what it says of itself ------------------------------------------------------------------------------------

    def _say_present(self) -> None:
        mine = self.sender.database.mine or self._next
        if mine is None:
            return
        trouble, since = self.trouble, self._since
        waits = self.sender.database.waits_since
        if not trouble and waits is not None and time.monotonic() - waits > _LOCKED_FOR:
            ago = time.monotonic() - waits
            self._locked_since = self._locked_since or _moment_ago(self.sender, ago)
            trouble, since = locked(who_writes(self.sender.database.path)).sentence, self._locked_since
        said = Presence(self.sender.process, mine.turn, time.monotonic(), trouble, since)
        with contextlib.suppress(OSError):
            say(self.sender.database.path, mine.line_id, said)

    def _saying(self) -> AbstractContextManager[None]:
        """Says again and again that this process is there, for as long as its acts go on."""
        longest = self.sender.line.policy.answers_within + _BESIDE_A_CALL

        def say_if_moving() -> None:
            moved_on = max(self._moved_on_at, self.sender.database.touched_at)
            if time.monotonic() - moved_on < longest:
                self._say_present()

        return repeating("presence", say_if_moving, _SAY_EVERY)


def _moment_ago(sender: Sender, seconds: float) -> str:
    return (sender.clock.now() - timedelta(seconds=seconds)).isoformat()


class _Gate:
    """Keeps a sender of an earlier version apart, which knows of no turn and takes a lock of the whole ledger.

    All senders of this version share the lock. Where an earlier one has it, nothing is sent here before it ends.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._handle: int | None = None

    def open_for_us(self) -> bool:
        """Whether no earlier version sends."""
        if self._handle is not None:
            return True
        handle = os.open(self._path, os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except BlockingIOError:
            os.close(handle)
            return False
        self._handle = handle
        return True

    def close(self) -> None:
        """Lets an earlier version send."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None
