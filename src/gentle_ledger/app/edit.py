"""The one way a round changes: a command in a transaction, with the lock of its stage, its version and the journal."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from typing import ClassVar

from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import Session

from gentle_ledger.app.draft import Draft
from gentle_ledger.app.open_rounds import OpenRound, RoundCache
from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.store import journal
from gentle_ledger.store.database import Database
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import preparing_round, round_of

THIS_MACHINE = "this machine"
"""Who makes changes, as long as the program knows no people."""

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


@dataclass(frozen=True, slots=True)
class Edited:
    """A round after a command, and the number of the change in its journal; None when nothing was changed."""

    opened: OpenRound
    change: int | None


class Editor:
    """Changes rounds; see `edit`."""

    def __init__(self, database: Database, cache: RoundCache, now: Callable[[], datetime]) -> None:
        self._database = database
        self._cache = cache
        self._now = now

    def edit(self, round_id: int, command: Command, by: str = THIS_MACHINE) -> Edited:
        """Does a command, in one transaction with its line in the journal.

        A command that changes nothing leaves version and journal as they are. Raises what the command raises, NotNow
        when the stage does not allow it, and NotThere.
        """
        self._at_hand(round_id)
        with self._database.writing() as session:
            found = type(command).gate(session, round_id)
            before = self._cache.opened(session, found)
            draft = Draft(session, found, before, self._now())
            what = command.apply(draft)
            if what is None:
                return Edited(before, None)
            change = journal.write(session, found, what, draft.effects, draft.at, by, typed=command.merges)
            after = self._changed(session, found, before, draft.touched)
        return Edited(self._cache.keep(after), change)

    def undo(
        self, round_id: int, by: str = THIS_MACHINE, *, only: int | None = None, upto: int | None = None
    ) -> OpenRound:
        """Takes the round's last change back, whoever made it, or every one down to `upto`.

        Once sending started only what was changed since then can be taken back: its name and its pace. Raises NotNow
        when there is none, or when another one than `only` was made since.
        """
        return self._walk(round_id, by, partial(journal.undo, only=only, upto=upto))

    def redo(self, round_id: int, by: str = THIS_MACHINE, *, upto: int | None = None) -> OpenRound:
        """Does again what was last taken back, or every one up to `upto`. Raises NotNow when there is none."""
        return self._walk(round_id, by, partial(journal.redo, upto=upto))

    def _walk(
        self, round_id: int, by: str, walk: Callable[[Session, Round, datetime, str], journal.Touched]
    ) -> OpenRound:
        self._at_hand(round_id)
        with self._database.writing() as session:
            found = round_of(session, round_id)
            before = self._cache.opened(session, found)
            after = self._changed(session, found, before, walk(session, found, self._now(), by))
        return self._cache.keep(after)

    def _changed(self, session: Session, found: Round, before: OpenRound, touched: journal.Touched) -> OpenRound:
        """The one place where a command lets a round's versions grow; a step of its stage does so by itself."""
        found.version += 1
        if touched.sheet:
            found.sheet_version += 1
        session.flush()
        return self._cache.after(session, found, before, touched)

    def _at_hand(self, round_id: int) -> None:
        """A large sheet takes a while to read, and to group: that must not keep the sender from writing."""
        known = self._cache.known(round_id)
        if known is None:
            with self._database.reading() as session:
                known = self._cache.opened(session, round_of(session, round_id))
        _ = known.composer
