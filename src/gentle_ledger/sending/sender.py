"""The sender: hands texts over one at a time, at the pace, and writes each mark down.

What may never happen is a text handed over twice. Therefore: the reference is committed before the carrier is called;
the outcome is committed right after; whatever is found Going was interrupted, and is asked about by its reference; and
a row that is tried again is asked about under all its earlier references first.
"""

import logging
import random
import secrets
import threading
from collections.abc import Callable
from dataclasses import replace

from filelock import FileLock, Timeout
from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.marks import Mark, Stage
from gentle_ledger.core.pace import LineState, Pace, Send, Wait, decide
from gentle_ledger.sending.bell import Bell
from gentle_ledger.sending.clock import Clock
from gentle_ledger.sending.lines import Accepted, Line, NoRecord, Refused, Silent
from gentle_ledger.store.database import Database
from gentle_ledger.store.messages import anything_handed_over, next_to_go, references_of, step, with_mark
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import recipe_of

log = logging.getLogger(__name__)

_LOOK_EVERY = 1.0
"""Seconds after which the sender looks for work even if nobody rang."""

NO_RECORD = "the carrier did not answer and has no record of this text"
NOT_TRIED = "not tried again: the carrier does not answer what became of the first try"
GONE_BEFORE = "an earlier try had gone after all"
CANNOT_SAY = "the carrier did not answer, so nobody can say whether the text went"


class Sender:
    """One sender for one database. `step` does at most one hand-over; `run` goes on until told to stop.

    Args:
        draw: gives a number from -1 to 1 for each gap.
        new_reference: gives a reference that was never used.
    """

    def __init__(
        self,
        database: Database,
        line: Line,
        clock: Clock,
        bell: Bell | None = None,
        draw: Callable[[], float] = lambda: random.uniform(-1.0, 1.0),
        new_reference: Callable[[], str] = lambda: secrets.token_hex(8),
    ) -> None:
        self.database = database
        self.line = line
        self.clock = clock
        self.bell = bell or Bell()
        self.woken = threading.Event()
        self._draw = draw
        self._new_reference = new_reference
        self._lock = FileLock(f"{database.path}.sender", thread_local=False)
        self._stop = threading.Event()
        self._state = LineState(draw=draw())
        self._turns: dict[int, float] = {}
        with database.reading() as session:
            if anything_handed_over(session):
                self._state = replace(self._state, last_at=clock.monotonic())

    # --- one sender only -------------------------------------------------------------------------------------------

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
            # Another process may have handed over until now: its last text counts for our gap.
            with self.database.reading() as session:
                if anything_handed_over(session):
                    self._state = replace(self._state, last_at=self.clock.monotonic())
        return True

    def release_lock(self) -> None:
        self._lock.release()

    # --- the work --------------------------------------------------------------------------------------------------

    def run(self) -> None:
        """Sends until `stop` is called. An error in one step is logged; the next begins with what it left Going."""
        try:
            while not self._stop.is_set():
                try:
                    pause = self._pause_after(self.step()) if self.take_lock() else _LOOK_EVERY
                except Exception:
                    log.exception("A step of the sender failed; it looks again.")
                    pause = _LOOK_EVERY
                if pause > 0:
                    self.clock.wait(self.woken, pause)
                self.woken.clear()
        finally:
            self.release_lock()

    def stop(self) -> None:
        self._stop.set()
        self.woken.set()

    def _pause_after(self, decision: Send | Wait | None) -> float:
        if isinstance(decision, Send):
            return 0.0
        if isinstance(decision, Wait) and decision.until is not None:
            return min(_LOOK_EVERY, max(0.0, decision.until - self.clock.monotonic()))
        return _LOOK_EVERY

    def step(self) -> Send | Wait | None:
        """Does the next thing there is to do, at most one hand-over.

        Returns Send when a text was handed over, Wait when the pace says not yet, None when there is nothing to do.
        """
        self.settle_going()
        found = self._whose_turn()
        if found is None:
            return None
        round_id, pace = found
        decision = decide(pace, self._state, self.clock.monotonic())
        if isinstance(decision, Send):
            self._hand_over_next(round_id)
        return decision

    def seconds_to_next(self, pace: Pace) -> float | None:
        """How long until the pace lets the next text leave; None when only a person ends the wait."""
        decision = decide(pace, self._state, self.clock.monotonic())
        if isinstance(decision, Send):
            return 0.0
        return None if decision.until is None else max(0.0, decision.until - self.clock.monotonic())

    def waits_for_carrier(self) -> bool:
        """True while the carrier's own wish to be left alone is not over."""
        return self._state.not_before is not None and self.clock.monotonic() < self._state.not_before

    def _whose_turn(self) -> tuple[int, Pace] | None:
        """The sending round that waited longest; a round with nothing left to go is finished on the way."""
        with self.database.reading() as session:
            sending = list(session.scalars(select(Round).where(Round.stage == Stage.SENDING).order_by(Round.id)))
            waiting = [r for r in sending if next_to_go(session, r.id) is not None]
        for done in sending:
            if done not in waiting:
                self._finish(done.id)
        if not waiting:
            return None
        first = min(waiting, key=lambda r: self._turns.get(r.id, float("-inf")))
        return first.id, recipe_of(first).pace.as_pace()

    def _finish(self, round_id: int) -> None:
        with self.database.writing() as session:
            found = session.get(Round, round_id)
            if found is None or found.stage != Stage.SENDING or next_to_go(session, round_id) is not None:
                return
            found.stage = Stage.FINISHED
            found.finished_at = self.clock.now()
            found.version += 1
        self.bell.ring()

    def _hand_over_next(self, round_id: int) -> None:
        with self.database.reading() as session:
            planned = next_to_go(session, round_id)
            earlier = references_of(session, planned.id) if planned else []
        if planned is None:
            return
        if earlier and self._settled_by_earlier(planned.id, earlier):
            return
        reference = self._new_reference()
        with self.database.writing() as session:
            # Pause and Stop may have come since: the round must still be sending, the row still To go.
            found, message = session.get(Round, round_id), session.get(Message, planned.id)
            if found is None or found.stage != Stage.SENDING or message is None or message.mark != Mark.TO_GO:
                return
            step(session, message, Mark.GOING, self.clock.now(), reference=reference, line=self.line.name)
        self.bell.ring()
        outcome: Accepted | Refused | NoRecord | Silent
        try:
            outcome = self.line.hand_over(reference, message.address, message.text)
        finally:
            # The gap counts from the end of the call: a slow answer must not let the next text come sooner after it.
            self._note_hand_over(round_id)
        if isinstance(outcome, Silent):
            outcome = self.line.ask(reference)
        self._settle(message.id, outcome)

    def _note_hand_over(self, round_id: int) -> None:
        now = self.clock.monotonic()
        self._state = replace(self._state, last_at=now, draw=self._draw())
        self._turns[round_id] = now

    def _settled_by_earlier(self, message_id: int, references: list[str]) -> bool:
        """Asks about every earlier hand-over of a row before a new one.

        True when the row is settled by the answer: one of them went after all, or the carrier gives no answer, and
        without one no second try is made.
        """
        for reference in references:
            outcome = self.line.ask(reference)
            if isinstance(outcome, (Refused, NoRecord)):
                continue
            with self.database.writing() as session:
                message = session.get_one(Message, message_id)
                if message.mark == Mark.TO_GO and isinstance(outcome, Accepted):
                    step(session, message, Mark.SENT, self.clock.now(), reason=GONE_BEFORE, reference=reference)
                elif message.mark == Mark.TO_GO:
                    step(session, message, Mark.FAILED, self.clock.now(), reason=NOT_TRIED, may_retry=True)
                    self._pause(session, message.round_id, "the carrier does not answer")
            self.bell.ring()
            return True
        return False

    def _pause(self, session: Session, round_id: int, why: str) -> None:
        """The program's own pause: going on would only spoil the next rows."""
        found = session.get(Round, round_id)
        if found is not None and found.stage == Stage.SENDING:
            found.stage = Stage.PAUSED
            found.note = why
            found.version += 1

    def settle_going(self) -> None:
        """What is Going while nothing is under way was interrupted: the carrier is asked, nothing is handed over."""
        with self.database.reading() as session:
            interrupted = with_mark(session, Mark.GOING)
        for message in interrupted:
            self._settle(message.id, self.line.ask(message.reference or ""))

    def ask_again(self, round_id: int) -> int:
        """Asks the carrier once more about the round's Unsure rows. Returns how many it could tell."""
        with self.database.reading() as session:
            unsure = with_mark(session, Mark.UNSURE, round_id)
        return sum(self._settle(message.id, self.line.ask(message.reference or "")) for message in unsure)

    def _settle(self, message_id: int, outcome: Accepted | Refused | NoRecord | Silent) -> bool:
        """Writes down what became of a hand-over; False when nobody can say."""
        reason, may_retry, told = "", False, True
        if isinstance(outcome, Accepted):
            to = Mark.SENT
        elif isinstance(outcome, Refused):
            to, reason, may_retry = Mark.FAILED, outcome.reason, outcome.may_retry
            if outcome.wait:
                self._state = replace(self._state, not_before=self.clock.monotonic() + outcome.wait)
        elif isinstance(outcome, NoRecord):
            to, reason, may_retry = Mark.FAILED, NO_RECORD, True
        else:
            to, reason, told = Mark.UNSURE, CANNOT_SAY, False
        with self.database.writing() as session:
            message = session.get_one(Message, message_id)
            if message.mark == to:
                return told
            step(
                session,
                message,
                to,
                self.clock.now(),
                reason=reason,
                may_retry=may_retry,
                line=self.line.name,
            )
            if to is Mark.UNSURE:
                self._pause(session, message.round_id, "the carrier does not answer")
            elif isinstance(outcome, Refused) and outcome.line_down:
                self._pause(session, message.round_id, outcome.reason)
        self.bell.ring()
        return told
