"""Rehearsals: a whole round through the real sender, to the stand-in carrier, over a ledger in memory alone.

Nothing of it can reach a recipient or stay behind: the line is the stand-in's, the ledger is gone with the rehearsal,
and of the real ledger only the record of the last rehearsal is written, at its end.
"""

import logging
import threading
from collections.abc import Collection, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from gentle_ledger.core.pace.decide import Wait
from gentle_ledger.core.recipe.kept import kept_recipe
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.frozen import FrozenRow
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.rehearsed import FASTER, RehearsalStage, Rehearsed, RehearsedText
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending.sender import Sender
from gentle_ledger.sending.stand_in import StandInLine
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.database import Database, ScratchDatabase
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.freezing import freeze
from gentle_ledger.store.messages import marks_in_order, texts_of
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rehearsals import keep_rehearsal

log = logging.getLogger(__name__)

_SHOWN = 50
"""Texts that are named one by one, of those handed over last and of those not taken."""


_MISSED = (Mark.FAILED, Mark.UNSURE)


class FastClock:
    """A clock that runs faster than the one it follows, both its times alike, from when it was made."""

    def __init__(self, clock: Clock, faster: float = FASTER) -> None:
        self._clock = clock
        self._faster = faster
        self._since = clock.monotonic()
        self._start = clock.now()

    def monotonic(self) -> float:
        """See `Clock`; 0 at its beginning."""
        return (self._clock.monotonic() - self._since) * self._faster

    def now(self) -> datetime:
        """See `Clock`."""
        return self._start + timedelta(seconds=self.monotonic())

    def wait(self, woken: threading.Event, seconds: float) -> None:
        """See `Clock`."""
        self._clock.wait(woken, seconds / self._faster)


class Rehearsal:
    """One rehearsal: its ledger in memory, its sender, and where it stands."""

    def __init__(
        self, line_name: str, recipe: Recipe, rows: Sequence[FrozenRow], seal: str, clock: Clock, office: str = "UTC"
    ) -> None:
        # Hours, days and moments are told by the forecast: a rehearsal shows the texts, and would wait for nothing.
        going = recipe.model_copy(update={"pace": recipe.pace.at_once()})
        self.recipe = recipe
        self.seal = seal
        self.began_at = clock.now()
        self.clock = FastClock(clock)
        self.stopped = threading.Event()
        self._ended_after: float | None = None
        self._database: Database = ScratchDatabase()
        with self._database.writing() as session:
            found = Round(
                stage=Stage.PREPARING,
                recipe=kept_recipe(going),
                columns="[]",
                row_count=len(rows),
                file_name="",
                created_at=self.began_at,
            )
            session.add(found)
            session.flush()
            freeze(session, found, [replace(row, moment=None) for row in rows], self.clock.now())
            self._round_id = found.id
        self._sender = Sender(self._database, StandInLine(line_name), self.clock, office=office)

    @property
    def running(self) -> bool:
        """True until it is stopped, or has nothing more to do."""
        return self._ended_after is None

    def act(self) -> float | None:
        """Does the next thing; seconds of its own clock until there is something to do, None once it is over."""
        decision = None if self.stopped.is_set() else self._sender.act()
        if decision is None:
            self.end()
            return None
        until = decision.until if isinstance(decision, Wait) else None
        return 0.0 if until is None else max(0.0, until - self.clock.monotonic())

    def end(self) -> None:
        """It is over, whatever it left undone."""
        if self._ended_after is None:
            self._ended_after = self.clock.monotonic()

    def close(self) -> None:
        """Lets its ledger go."""
        self._database.close()

    def look(self) -> Rehearsed:
        """Where it stands."""
        lasted = self.clock.monotonic() if self._ended_after is None else self._ended_after
        with self._database.reading() as session:
            found = session.get_one(Round, self._round_id)
            return Rehearsed(
                self._stage(found),
                self.began_at,
                self.seal,
                marks_in_order(session, found.id),
                texts_of(session, found.id),
                _texts(session, found.id, (*_MISSED, Mark.SENT), Message.marked_at.desc()),
                _texts(session, found.id, _MISSED),
                lasted,
                found.note,
            )

    def _stage(self, found: Round) -> RehearsalStage:
        if self.running:
            return RehearsalStage.RUNNING
        if found.stage == Stage.FINISHED:
            return RehearsalStage.FINISHED
        return RehearsalStage.PAUSED if found.stage == Stage.PAUSED else RehearsalStage.STOPPED


def _texts(session: Session, round_id: int, marks: Collection[Mark], *order: ColumnElement[Any]) -> list[RehearsedText]:
    wanted = select(Message).where(Message.round_id == round_id, Message.mark.in_(marks), Message.with_row.is_(None))
    return [
        RehearsedText(m.row, m.label, m.address, Mark(m.mark), m.reason, m.marked_at, m.text)
        for m in session.scalars(wanted.order_by(*order, Message.row).limit(_SHOWN))
    ]


class RehearsalRunner:
    """Runs rehearsals on a thread of their own, one at a time; see `app.rehearsing.Rehearsals`.

    Args:
        database: the real ledger, into which what came of a rehearsal is written at its end.
        line_name: what recipients would see as the sender.
        clock: the real clock.
        office: the zone (IANA) of the office.
    """

    def __init__(self, database: Database, line_name: str, clock: Clock, office: str = "UTC") -> None:
        self._database = database
        self._line_name = line_name
        self._clock = clock
        self._office = office
        self._guard = threading.Lock()
        self._last: tuple[int, Rehearsal] | None = None
        self._thread: threading.Thread | None = None

    def begin(self, round_id: int, recipe: Recipe, rows: Sequence[FrozenRow], seal: str) -> None:
        """Begins a rehearsal of a round, in the place of the last one. Raises NotNow while one is running."""
        with self._guard:
            if self._last is not None and self._last[1].running:
                raise NotNow("A rehearsal is running already.", "Stop it first, or wait until it is over.")
            if self._last is not None and self._thread is not None:
                # What came of it may just be written down.
                self._thread.join()
                self._last[1].close()
            rehearsal = Rehearsal(self._line_name, recipe, rows, seal, self._clock, self._office)
            self._last = (round_id, rehearsal)
            self._thread = threading.Thread(target=self._run, args=(round_id, rehearsal), name="rehearsal", daemon=True)
            self._thread.start()

    def stop(self, round_id: int) -> None:
        """Stops the rehearsal of a round, if it is running, and waits for its end."""
        with self._guard:
            mine = self._last is not None and self._last[0] == round_id
            thread = self._thread if mine else None
            if mine and self._last is not None:
                self._last[1].stopped.set()
        if thread is not None:
            thread.join()

    def look(self, round_id: int) -> Rehearsed | None:
        """The rehearsal of a round, as it stands; None where the last one was another round's.

        It is over only once what came of it is written down: whoever sees the end then finds the record too.
        """
        # The next one lets its ledger go, and has to wait for that.
        with self._guard:
            if self._last is None or self._last[0] != round_id:
                return None
            kept = self._thread is None or not self._thread.is_alive()
            seen = self._last[1].look()
            return seen if kept else replace(seen, stage=RehearsalStage.RUNNING)

    def close(self) -> None:
        """Ends whatever is running."""
        with self._guard:
            last = self._last
        if last is not None:
            self.stop(last[0])

    def _run(self, round_id: int, rehearsal: Rehearsal) -> None:
        try:
            while (rest := rehearsal.act()) is not None:
                if rest:
                    rehearsal.clock.wait(rehearsal.stopped, rest)
            done = rehearsal.look()
            with self._database.writing() as session:
                keep_rehearsal(
                    session,
                    round_id,
                    rehearsal.began_at,
                    rehearsal.seal,
                    rehearsal.recipe.pace,
                    done.outcome,
                    whole=done.stage is RehearsalStage.FINISHED,
                )
        except Exception as fault:
            log.error("A rehearsal failed; nothing of it touched the ledger.", exc_info=fault)
        finally:
            rehearsal.end()
