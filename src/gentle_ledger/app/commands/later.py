"""What can still be done about texts of a round that was started: sending them after all, leaving them out, settling.

Where there are many, the first of them are done with the command, and the others after it in pieces; what is cut off
stays as it was, and can be done again.
"""

import json
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from datetime import datetime
from itertools import islice
from typing import ClassVar, Literal

from pydantic import Field, PrivateAttr
from sqlalchemy.orm import Session
from typing_extensions import override

from gentle_ledger.app.commands.sending import look_first, while_in
from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command, Gate
from gentle_ledger.app.seal import refuse_changed, seal_of_locked, turns_of_locked, whole_seal
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.marks import CHOSEN, TAKEN_UP, TO_BE_TRIED, Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.model import MAX_ROWS
from gentle_ledger.store.attempts import attempts_of
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.freezing import anything_of
from gentle_ledger.store.history import Read, goes_on_since, not_superseded, read_so_far, still_wanted
from gentle_ledger.store.lines import line_of_round
from gentle_ledger.store.messages import (
    Again,
    any_to_go,
    as_again,
    bearing_rows,
    how_many,
    may_be_tried_again,
    not_chosen,
    put_again,
    stopped_before_turn,
    with_mark,
)
from gentle_ledger.store.models import LineRecord, Message, Round
from gentle_ledger.store.rounds import recipe_of, round_of
from gentle_ledger.store.statements import Statements, statements_of
from gentle_ledger.store.steps import StepRefused, keep_some_back, marked_text, settle_by_hand

Waiting = Literal["failed", "stopped", "ready"]
"""What may still be sent in a round that was started."""
_WAITING: Mapping[Waiting, Callable[[Session, int], list[Message]]] = {
    "failed": may_be_tried_again,
    "stopped": stopped_before_turn,
    "ready": not_chosen,
}
_WHY_AGAIN = {"failed": TO_BE_TRIED, "stopped": TAKEN_UP, "ready": CHOSEN}
_AT_ONCE = 500
"""Texts that are put to To go together: some hundredths of a second."""
_SETTLED_AT_ONCE = 100
"""Texts that are settled together, which takes longer."""


def _again(texts: int, which: Waiting | None = None, failed: bool | None = None) -> str:
    # Earlier versions wrote down only whether they had failed.
    said = which or ("failed" if failed else "stopped")
    done = {"failed": "tried again", "stopped": "taken up again", "ready": "sent as well"}[said]
    return f"{count(texts, 'text')} {done}"


def _settled(texts: int, went: bool, why: str) -> str:
    return f"{count(texts, 'unsure text')} settled by hand as {'sent' if went else 'not sent'} ({why})"


AGAIN = reason_kind("sending again", _again)
LEFT_BACK = reason_kind("texts kept back", lambda texts: f"{count(texts, 'text')} that were not chosen left out")
SETTLED = reason_kind("settled by hand", _settled)


class _Looked:
    """What was read of a round before the transaction: it holds where nothing concerns it since."""

    def __init__(self, session: Session, found: Round, texts: Sequence[Message]) -> None:
        self.version = found.version
        self.read: Read = read_so_far(session)
        self.texts = texts
        self.numbers = {text.address for text in texts}

    def holds(self, session: Session, found: Round) -> bool:
        """Whether the round, its marks and what other rounds did to these numbers are as they were."""
        return (
            found.version == self.version
            and not anything_of(session, found.id, self.read[1])
            and not self.others_since(session, found.id)
        )

    def others_since(self, session: Session, round_id: int) -> bool:
        """Whether another round had to do with these numbers since, or the list of No more texts was changed."""
        return goes_on_since(session, round_id, self.read, self.numbers.__contains__)


class _LooksBefore(Command):
    """A command about many texts, which are read before the transaction; see `_Looked`."""

    _seen: _Looked = PrivateAttr()

    @override
    @contextmanager
    def prepared(self, database: Database, round_id: int, at: datetime) -> Iterator[None]:
        with database.reading() as session:
            self._look(session, type(self).gate(session, round_id), at)
        yield

    def _look(self, session: Session, found: Round, at: datetime) -> None:
        raise NotImplementedError


class TryAgain(_LooksBefore):
    """Sends what did not go: the failed rows that may succeed, the stopped ones, or those not chosen at first.

    They are put to To go, in their order, and leave at the pace.
    `texts` is how many the clerk was told that there are, and `seal` stands for all that was said of them; `rows`
    (from 1), where not all of them are to go. `looked`: why the round has to be looked at first was read.
    `all_the_same` sends those not chosen at first also where another round texted about the same since.
    """

    gate: ClassVar[Gate] = staticmethod(
        while_in(
            Stage.SENDING,
            Stage.STOPPED,
            Stage.FINISHED,
            refusal="Nothing more can be sent now: the round is paused, or was not started.",
        )
    )

    which: Waiting
    texts: int = Field(ge=1)
    seal: str = Field(max_length=1_000)
    looked: bool = False
    rows: list[RowNumber] | None = Field(default=None, max_length=MAX_ROWS)
    all_the_same: bool = False
    _sealed: tuple[str, str] = PrivateAttr()
    _going: Sequence[Again] = PrivateAttr()

    @override
    def _look(self, session: Session, found: Round, at: datetime) -> None:
        texts = still_to_try(session, found, at, self.which, self.rows, all_the_same=self.all_the_same)
        self._seen = _Looked(session, found, texts)
        self._sealed = seal_of_locked(texts), turns_of_locked(texts)
        self._going = [as_again(text) for text in sorted(texts, key=lambda text: (text.place, text.row))]

    @override
    def apply(self, draft: Draft) -> Reason | None:
        session, found = draft.session, draft.found
        if found.stage == Stage.STOPPED and any_to_go(session, found.id):
            raise NotNow("The round is just being stopped.", "Wait a moment.")
        look_first(found, looked=self.looked)
        if not self._seen.holds(session, found):
            self._look(session, found, draft.at)
        texts = self._seen.texts
        if len(texts) != self.texts:
            raise NotNow(
                f"Something changed meanwhile: there are {count(len(texts), 'text')} now, not {self.texts:,}.",
                "Look once more and send.",
            )
        refuse_changed(self.seal, sealed_now(session, found, *self._sealed))
        put_again(session, found, draft.at, self._going[:_AT_ONCE], _WHY_AGAIN[self.which]())
        return AGAIN(texts=len(texts), which=self.which)

    @override
    def finish(self, database: Database, round_id: int, at: datetime) -> None:
        rest = iter(self._going[_AT_ONCE:])
        while some := list(islice(rest, _AT_ONCE)):
            with suppress(StepRefused), database.writing(piece=True) as session:
                found = round_of(session, round_id)
                # Whoever stopped it since, or texted about these from another round, or did the same, is followed.
                if found.stage == Stage.STOPPED or self._seen.others_since(session, round_id):
                    return
                put_again(session, found, at, some, _WHY_AGAIN[self.which]())


class KeepBack(Command):
    """Leaves out what was not among those chosen to go. It can be taken up again."""

    gate: ClassVar[Gate] = staticmethod(
        while_in(
            *set(Stage) - {Stage.PREPARING}, refusal="The round was not started, so every row can still be chosen."
        )
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        texts = how_many(draft.session, Mark.READY, draft.found.id)
        keep_some_back(statements_of(draft.session), draft.found.id, draft.at)
        draft.session.expire_all()
        return LEFT_BACK(texts=texts) if texts else None

    @override
    def finish(self, database: Database, round_id: int, at: datetime) -> None:
        more = True
        while more:
            with database.writing_bare(piece=True) as ledger:
                more = keep_some_back(ledger, round_id, at)


class SettleByHand(_LooksBefore):
    """Settles texts of which nobody can say whether they went, by somebody's word, who has looked or asked.

    `rows` (from 1) are theirs; None for all that are Unsure in the round. `went` says which it was, `reason` how it is
    known. A text whose carrier is just being asked is left to it.
    """

    gate: ClassVar[Gate] = staticmethod(
        while_in(*set(Stage) - {Stage.PREPARING}, refusal="Nothing of this round was handed over.")
    )

    went: bool
    reason: str = Field(min_length=3, max_length=500)
    texts: int = Field(ge=1)
    rows: list[RowNumber] | None = Field(default=None, max_length=MAX_ROWS)
    _young: RowNumber | None = PrivateAttr(None)
    _rest: Sequence[int] = PrivateAttr(())

    @property
    def why(self) -> str:
        """The reason without spaces that say nothing."""
        return " ".join(self.reason.split())

    @override
    def _look(self, session: Session, found: Round, at: datetime) -> None:
        unsure = with_mark(session, Mark.UNSURE, found.id)
        if self.rows is not None:
            bearing = bearing_rows(session, found.id, self.rows)
            unsure = [text for text in unsure if text.row in bearing]
        self._young = next((text.row for text in unsure if still_settling(session, text, at)), None)
        self._seen = _Looked(session, found, unsure)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        if len(self.why) < 3:
            raise NotNow("Say in a few words how it is known.", "It stands in the ledger.")
        if not self._seen.holds(draft.session, draft.found):
            self._look(draft.session, draft.found, draft.at)
        unsure = self._seen.texts
        if len(unsure) != self.texts:
            raise NotNow(
                f"Something changed meanwhile: {count(len(unsure), 'text is', 'texts are')} unsure now, not "
                f"{self.texts:,}.",
                "Look once more.",
            )
        if self._young is not None:
            raise NotNow(
                f"The carrier is still being asked about row {self._young}: it may take the text yet.",
                "Wait a minute or two; then settle what is left.",
            )
        ids = [text.id for text in unsure]
        self._settle(statements_of(draft.session), ids[:_SETTLED_AT_ONCE], draft.at)
        self._rest = ids[_SETTLED_AT_ONCE:]
        return SETTLED(texts=len(unsure), went=self.went, why=self.why)

    @override
    def finish(self, database: Database, round_id: int, at: datetime) -> None:
        rest = iter(self._rest)
        while some := list(islice(rest, _SETTLED_AT_ONCE)):
            with database.writing_bare(piece=True) as ledger:
                self._settle(ledger, some, at)

    def _settle(self, ledger: Statements, ids: Sequence[int], at: datetime) -> None:
        for message_id in ids:
            text = marked_text(ledger, message_id)
            # What the carrier has said of one meanwhile holds.
            if text is not None and text.mark == Mark.UNSURE:
                settle_by_hand(ledger, text, at, self.why, went=self.went)


def later_seal(session: Session, found: Round, texts: Sequence[Message]) -> str:
    """The seal of texts of a started round that may still be sent: see `whole_seal`."""
    return sealed_now(session, found, seal_of_locked(texts), turns_of_locked(texts))


def sealed_now(session: Session, found: Round, texts: str, turns: str) -> str:
    """The same, of texts whose own seals are known."""
    return whole_seal(texts, turns, recipe_of(found), line_of_round(session, found), "")


def still_settling(session: Session, text: Message, at: datetime) -> bool:
    """Whether the carrier of a text may take it yet: its own silence proves nothing so soon."""
    tried = attempts_of(session, text.id)
    if not tried:
        return False
    line = session.get(LineRecord, tried[-1].line_id)
    abilities = json.loads(line.abilities) if line else {}
    if not abilities.get("can be asked"):
        return False
    age = (at - tried[-1].at).total_seconds()
    return 0.0 <= age < float(abilities.get("settles after", 0.0))


def waiting_texts(
    session: Session, found: Round, which: Waiting, rows: Collection[RowNumber] | None = None
) -> list[Message]:
    """The texts of that kind, of some rows (from 1) or of all, whether they may still be sent or not."""
    texts = _WAITING[which](session, found.id)
    if rows is None:
        return texts
    bearing = bearing_rows(session, found.id, rows)
    return [text for text in texts if text.row in bearing]


def still_to_try(
    session: Session,
    found: Round,
    at: datetime,
    which: Waiting,
    rows: Collection[RowNumber] | None = None,
    *,
    all_the_same: bool = False,
) -> list[Message]:
    """The texts that may be sent after all: failed ones that may succeed, stopped ones, or those not chosen at first.

    What another round has sent to the same number meanwhile, word for word, is not among them; nor is a text to
    somebody who asked for no more of them; nor, unless they are to go `all_the_same`, those not chosen at first about
    whose matter another round texted since. `rows` (from 1) asks for those of some rows only.
    """
    texts = waiting_texts(session, found, which, rows)
    if which == "ready" and not all_the_same and found.started_at is not None:
        texts = not_superseded(session, texts, found.started_at)
    return still_wanted(session, texts, recipe_of(found).repeat_days, at)
