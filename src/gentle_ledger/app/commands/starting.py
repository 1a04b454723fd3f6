"""Starting a round, exactly as it was confirmed, and taking one back of which nothing went."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import ClassVar

from pydantic import PrivateAttr
from sqlalchemy.orm import Session
from typing_extensions import override

from gentle_ledger.app.commands.sending import while_in
from gentle_ledger.app.counting.jobs import Frozen
from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command, Gate
from gentle_ledger.app.seal import past_rows, refuse_changed, seal_of_frozen, turns_of_frozen, whole_seal
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.frozen import FrozenRow, those_to_go
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store import journal
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.freezing import anything_of, begin_laid, clear_texts, lay_texts, take_back, texts_of_rows
from gentle_ledger.store.history import goes_on_since
from gentle_ledger.store.lines import line_in_use
from gentle_ledger.store.messages import last_entry
from gentle_ledger.store.models import Round
from gentle_ledger.store.put_back import doubt_frozen
from gentle_ledger.store.rounds import recipe_of
from gentle_ledger.store.sheets import at_work
from gentle_ledger.store.statements import statements_of

STARTED = reason_kind("sending started", lambda texts: f"sending {count(texts, 'text')} began")
TAKEN_BACK = reason_kind("sending taken back", "sending taken back before anything went")


class Start(Command):
    """Freezes exactly what the seal stands for and starts sending; anything else is refused.

    `frozen` is the round as it was computed before. `rows` (from 1) are those that were chosen; None for all. What is
    ready and was not chosen is written down too, and waits. `office` is its zone (IANA).

    The texts are written down in pieces before, and count for nothing until the round starts at one stroke.
    """

    seal: str
    frozen: Frozen
    rows: list[RowNumber] | None = None
    office: str = "UTC"
    _going: list[FrozenRow] = PrivateAttr()
    _sealed: tuple[str, str] = PrivateAttr()
    _concerned: set[str] = PrivateAttr()
    _laid: str = PrivateAttr("")

    @override
    def model_post_init(self, _context: object) -> None:
        # Of a long round this takes a while, in which nobody has to wait for the ledger.
        chosen = None if self.rows is None else {row_of_number(row) for row in self.rows}
        self._going = those_to_go(self.frozen.rows, chosen)
        self._sealed = seal_of_frozen(self._going), turns_of_frozen(self._going)
        self._concerned = {frozen.number for frozen in self.frozen.rows}

    @override
    @contextmanager
    def prepared(self, database: Database, round_id: int, at: datetime) -> Iterator[None]:
        with database.reading() as session:
            self._refuse_other(session, type(self).gate(session, round_id))
        texts = texts_of_rows(round_id, self.frozen.rows, self._going, at)
        try:
            with at_work() as self._laid:
                lay_texts(database, round_id, self.frozen.version, texts, self._laid)
                yield
        except BaseException:
            clear_texts(database, round_id)
            raise

    @override
    def apply(self, draft: Draft) -> Reason | None:
        session, found = draft.session, draft.found
        # The transaction keeps every change out: what was computed must still be what stands here.
        self._refuse_other(session, found)
        line = line_in_use(session)
        begin_laid(session, found, self._laid, len(self.frozen.rows), draft.at)
        found.line_id = line.id if line else None
        doubt_frozen(statements_of(session), found.id, found.uid, draft.at)
        journal.close(session, found)
        return STARTED(texts=len(self._going))

    def _refuse_other(self, session: Session, found: Round) -> None:
        """Raises NotNow where anything is another than it was confirmed, or computed."""
        past = past_rows(session, found, (number_of_row(row.row) for row in self._going))
        refuse_changed(self.seal, whole_seal(*self._sealed, recipe_of(found), line_in_use(session), self.office, past))
        read = self.frozen.read
        goes_on = read is not None and goes_on_since(session, found.id, read, self._concerned.__contains__)
        if found.version != self.frozen.version or goes_on:
            raise NotNow(
                "Something changed since the slips were shown, so nothing was sent.", "Look at them once more and send."
            )
        if not self._going:
            raise NotNow("No row is ready to be sent.", "See what holds them under Worth a look.")


class TakeBack(Command):
    """Brings a round of which nothing went back to being prepared, such as one that is scheduled."""

    gate: ClassVar[Gate] = staticmethod(
        while_in(
            Stage.SENDING, Stage.PAUSED, refusal="The round is not waiting to be sent, so it cannot be taken back."
        )
    )
    _went: bool = PrivateAttr(False)
    _looked_upto: int = PrivateAttr(0)

    @override
    @contextmanager
    def prepared(self, database: Database, round_id: int, at: datetime) -> Iterator[None]:
        with database.reading() as session:
            self._looked_upto = last_entry(session) or 0
            self._went = anything_of(session, round_id)
        yield

    @override
    def apply(self, draft: Draft) -> Reason | None:
        if self._went or anything_of(draft.session, draft.found.id, self._looked_upto):
            raise NotNow("Something of the round went already, so it cannot be taken back.", "Pause it, or stop it.")
        take_back(draft.found)
        return TAKEN_BACK()

    @override
    def finish(self, database: Database, round_id: int, at: datetime) -> None:
        clear_texts(database, round_id)
