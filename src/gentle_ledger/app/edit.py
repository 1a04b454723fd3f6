"""The one way a round changes: a command in a transaction, with the lock of its stage, its version and the journal."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from typing import ClassVar, TypedDict

from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import Session
from typing_extensions import Unpack

from gentle_ledger.app.aside import Seen, laid_aside
from gentle_ledger.app.draft import Draft, Plan
from gentle_ledger.app.open_rounds import OpenRound, RoundCache
from gentle_ledger.app.parts import refuse_behind
from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store import journal
from gentle_ledger.store.database import Database
from gentle_ledger.store.deeds import NO_DEED, Deed, done_already, note_done
from gentle_ledger.store.effects import Touched
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import Round
from gentle_ledger.store.reopening import reopen
from gentle_ledger.store.rounds import preparing_round, round_of

THIS_MACHINE = "this machine"
"""Who makes changes, as long as the program knows no people."""

_TRIES = 20
"""How often something that takes long is readied anew because somebody else changed the round meanwhile."""
_ALL_THE_TIME = "Others are changing this round all the time."

Gate = Callable[[Session, int], Round]
"""Gives the round if its stage lets a command work on it; raises NotNow."""


class Command(BaseModel):
    """Something that is done to a round.

    Attributes:
        gate: which stages allow it. Without another one the round must still be prepared.
        merges: whether many of it come while somebody types: those within one pause are one change.
    """

    model_config = ConfigDict(extra="forbid", arbitrary_types_allowed=True)

    gate: ClassVar[Gate] = staticmethod(preparing_round)
    merges: ClassVar[bool] = False

    def apply(self, draft: Draft) -> Reason | None:
        """Does it, and says what was done; None where nothing was. What it raises undoes all of it."""
        raise NotImplementedError

    @contextmanager
    def prepared(self, database: Database, round_id: int, at: datetime) -> Iterator[None]:
        """Readies what takes long before the transaction, for as long as that lasts.

        What it writes counts for nothing yet, and is cleared away where the transaction is refused.
        """
        yield

    def finish(self, database: Database, round_id: int, at: datetime) -> None:
        """What takes long and follows the transaction, in pieces that are each true by themselves."""


class LongCommand(Command):
    """A command that may write many rows. It says what it would do, and that is done then, in pieces if it is long."""

    def plan(self, draft: Plan) -> Reason | None:
        """Notes it in the draft, and says what it will have been; None where nothing."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class Edited:
    """A round after a command, and the number of the change in its journal; None when nothing was changed."""

    opened: OpenRound
    change: int | None


class Which(TypedDict, total=False):
    """Which changes are taken back, or done again, see `Editor.undo`; by whom, and what the window says of it."""

    by: str
    only: int | None
    upto: int | None
    deed: Deed


class Editor:
    """Changes rounds; see `edit`."""

    def __init__(self, database: Database, cache: RoundCache, now: Callable[[], datetime]) -> None:
        self._database = database
        self._cache = cache
        self._now = now

    def edit(self, round_id: int, command: Command, by: str = THIS_MACHINE, deed: Deed = NO_DEED) -> Edited:
        """Does a command, in one transaction with its line in the journal.

        A command that changes nothing leaves version and journal as they are, and so does one that was asked for under
        the same key before. Raises what the command raises, NotNow when the stage does not allow it, NotThere, and
        Behind where another window changed the same meanwhile.
        """
        if (done := self._done_already(round_id, deed)) is not None:
            return done
        self._at_hand(round_id)
        if isinstance(command, LongCommand):
            return self._edit_long(round_id, command, by, deed)
        at = self._now()
        with command.prepared(self._database, round_id, at):
            edited = self._edit(round_id, command, at, by, deed)
        command.finish(self._database, round_id, at)
        return edited

    def _done_already(self, round_id: int, deed: Deed) -> Edited | None:
        """What became of a deed that was asked for before. Raises OtherLedger."""
        if not deed.key and not deed.uid:
            return None
        with self._database.reading() as session:
            found = round_of(session, round_id)
            done = done_already(session, found, deed)
            return None if done is None else Edited(self._cache.opened(session, found), done.change)

    def _edit(self, round_id: int, command: Command, at: datetime, by: str, deed: Deed) -> Edited:
        with self._database.writing() as session:
            found = type(command).gate(session, round_id)
            before = self._cache.opened(session, found)
            # Two that ask at once: the one behind finds it done.
            if done := done_already(session, found, deed):
                return Edited(before, done.change)
            draft = Draft(session, found, before, at)
            what = command.apply(draft)
            if what is None:
                note_done(session, found, deed, None, at)
                return Edited(before, None)
            # What is typed says itself over what it was written.
            if not command.merges:
                refuse_behind(session, found, draft.effects, before.readings.sheet.columns, deed)
            change = journal.write(session, found, what, draft.effects, draft.at, by, typed=command.merges, deed=deed)
            note_done(session, found, deed, change, at)
            after = self._changed(session, found, before, draft.touched)
        return Edited(self._cache.keep(after), change)

    def _edit_long(self, round_id: int, command: LongCommand, by: str, deed: Deed) -> Edited:
        for _ in range(_TRIES):
            with self._database.reading() as session:
                found = type(command).gate(session, round_id)
                before = self._cache.opened(session, found)
                plan = Plan(session, found, before, self._now())
                what = command.plan(plan)
                if what is None:
                    return Edited(before, None)
                refuse_behind(session, found, plan.effects, before.readings.sheet.columns, deed)
            change: int | None = None
            with laid_aside(self._database, before, plan.effects, newer=plan.newer) as aside:
                with self._database.writing() as session:
                    found = type(command).gate(session, round_id)
                    # Where somebody was faster, what is to be done is found anew.
                    if done := done_already(session, found, deed):
                        return Edited(before, done.change)
                    if found.version == before.version:
                        effects = aside.take(session, found)
                        change = journal.write(session, found, what, effects, plan.at, by, kept=aside.kept, deed=deed)
                        note_done(session, found, deed, change, plan.at)
                        after = self._changed(session, found, before, aside.touched, aside.seen)
                if change is not None:
                    return Edited(self._cache.keep(after), change)
        raise NotNow(_ALL_THE_TIME, "Wait a moment, and do it once more.")

    def undo(self, round_id: int, **which: Unpack[Which]) -> OpenRound:
        """Takes the round's last change back, or just `only`, or every one down to `upto`, whoever made these.

        Once sending started only what was changed since then can be taken back: its name and its pace. Raises NotNow
        when there is none, or when another one than `only` was made since, and NotFromHere when neither is named and
        the last one was made in another window.
        """
        return self._walk(round_id, back=True, **which)

    def redo(self, round_id: int, **which: Unpack[Which]) -> OpenRound:
        """Does again what was last taken back, or just `only`, or every one up to `upto`; raises as `undo` does."""
        return self._walk(round_id, back=False, **which)

    def _walk(
        self,
        round_id: int,
        *,
        back: bool,
        by: str = THIS_MACHINE,
        only: int | None = None,
        upto: int | None = None,
        deed: Deed = NO_DEED,
    ) -> OpenRound:
        if (done := self._done_already(round_id, deed)) is not None:
            return done.opened
        self._at_hand(round_id)
        window = deed.window or None
        meant: list[int] = []
        for _ in range(_TRIES):
            with self._database.reading() as session:
                found = round_of(session, round_id)
                before = self._cache.opened(session, found)
                steps = journal.steps_of(session, found, back=back, only=only, upto=upto, window=window)
            meant = meant or [step.id for step in steps]
            if [step.id for step in steps] != meant:
                raise NotNow("Something else was changed meanwhile.", "Look at it, and do it once more.")
            after = self._take_steps(before, steps, by, deed, back=back)
            if after is not before:
                return after
        raise NotNow(_ALL_THE_TIME, "Wait a moment, and do it once more.")

    def _take_steps(
        self, state: OpenRound, steps: Sequence[journal.Step], by: str, deed: Deed, *, back: bool
    ) -> OpenRound:
        """Takes one change back after another, or does it again: the newest state, as far as nobody was faster."""
        for step in steps:
            effects = laid_aside(self._database, state, step.effects, back=back)
            with effects as aside, self._database.writing() as session:
                found = round_of(session, state.round_id)
                if found.version != state.version or done_already(session, found, deed):
                    return state
                aside.take(session, found)
                journal.take_step(session, found, step, self._now(), by, back=back, deed=deed)
                # Several are one deed: it is done with the last of them.
                if step is steps[-1]:
                    note_done(session, found, deed, step.id, self._now())
                after = self._changed(session, found, state, aside.touched, aside.seen)
            state = self._cache.keep(after)
        return state

    def _changed(
        self, session: Session, found: Round, before: OpenRound, touched: Touched, seen: Seen | None = None
    ) -> OpenRound:
        """The one place where a command lets a round's versions grow; a step of its stage does so by itself."""
        found.version += 1
        if touched.sheet:
            found.sheet_version += 1
        if found.stage != Stage.PREPARING and (mended := {row for row, _ in touched.cells} | touched.let_go):
            reopen(session, found, mended, self._now())
        session.flush()
        if seen is not None:
            return self._cache.standing(found, *seen)
        return self._cache.after(session, found, before, touched)

    def _at_hand(self, round_id: int) -> None:
        """A large sheet takes a while to read, and to group: that must not keep the sender from writing."""
        known = self._cache.known(round_id)
        if known is None:
            with self._database.reading() as session:
                known = self._cache.opened(session, round_of(session, round_id))
        _ = known.composer
