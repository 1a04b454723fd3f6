"""Commands about sending: start, pause, go on, stop, try again, and asking the carrier.

They write to the store alone; whoever sends reads it there.
"""

import json
from collections.abc import Callable, Collection, Iterable, Mapping
from datetime import datetime
from typing import ClassVar, Literal

from pydantic import Field, PrivateAttr
from sqlalchemy.orm import Session
from typing_extensions import override

from gentle_ledger.app.counting.jobs import Frozen
from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command, Gate
from gentle_ledger.app.seal import (
    seal_of_frozen,
    seal_of_locked,
    turns_of_frozen,
    turns_of_locked,
    what_differs,
    whole_seal,
)
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.frozen import FrozenRow, those_to_go
from gentle_ledger.core.rounds.marks import CHOSEN, TAKEN_UP, TO_BE_TRIED, Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.model import MAX_ROWS
from gentle_ledger.store import journal
from gentle_ledger.store.attempts import attempts_of
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.history import goes_on_since, not_superseded, still_wanted
from gentle_ledger.store.lines import line_in_use, line_of_round
from gentle_ledger.store.messages import (
    again,
    any_to_go,
    bearing_rows,
    freeze,
    keep_back,
    may_be_tried_again,
    not_chosen,
    stopped_before_turn,
    take_back,
    with_mark,
)
from gentle_ledger.store.models import LineRecord, Message, Round
from gentle_ledger.store.put_back import doubt_frozen, doubted_rows
from gentle_ledger.store.rounds import recipe_of, round_of
from gentle_ledger.store.stages import in_stage, stage_now, step_stage
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.steps import leave_some_out, settle_by_hand

STARTED = reason_kind("sending started", lambda texts: f"sending {count(texts, 'text')} began")
PAUSED = reason_kind("sending paused", "sending paused")
GONE_ON = reason_kind("sending gone on", "sending went on")
TAKEN_BACK = reason_kind("sending taken back", "sending taken back before anything went")
STOPPED = reason_kind("sending stopped", "sending stopped")

Waiting = Literal["failed", "stopped", "ready"]
"""What may still be sent in a round that was started."""
_WAITING: Mapping[Waiting, Callable[[Session, int], list[Message]]] = {
    "failed": may_be_tried_again,
    "stopped": stopped_before_turn,
    "ready": not_chosen,
}
_WHY_AGAIN = {"failed": TO_BE_TRIED, "stopped": TAKEN_UP, "ready": CHOSEN}


def _again(texts: int, which: Waiting | None = None, failed: bool | None = None) -> str:
    # Earlier versions wrote down only whether they had failed.
    said = which or ("failed" if failed else "stopped")
    done = {"failed": "tried again", "stopped": "taken up again", "ready": "sent as well"}[said]
    return f"{count(texts, 'text')} {done}"


AGAIN = reason_kind("sending again", _again)
LEFT_BACK = reason_kind("texts kept back", lambda texts: f"{count(texts, 'text')} that were not chosen left out")


def _settled(texts: int, went: bool, why: str) -> str:
    return f"{count(texts, 'unsure text')} settled by hand as {'sent' if went else 'not sent'} ({why})"


SETTLED = reason_kind("settled by hand", _settled)
OTHER_LINE_CHOSEN = reason_kind("other line chosen", "the round goes by the line {line} from now on")
ASKED = reason_kind("carrier asked", "the carrier asked about the unsure rows")


class Start(Command):
    """Freezes exactly what the seal stands for and starts sending; anything else is refused.

    `frozen` is the round as it was computed before the transaction began. `rows` (from 1) are those that were chosen;
    None for all. What is ready and was not chosen is written down too, and waits. `office` is its zone (IANA).
    """

    seal: str
    frozen: Frozen
    rows: list[RowNumber] | None = None
    office: str = "UTC"
    _going: list[FrozenRow] = PrivateAttr()
    _sealed: tuple[str, str] = PrivateAttr()

    @override
    def model_post_init(self, _context: object) -> None:
        # Of a long round this takes a while, in which nobody has to wait for the ledger.
        chosen = None if self.rows is None else {row_of_number(row) for row in self.rows}
        self._going = those_to_go(self.frozen.rows, chosen)
        self._sealed = seal_of_frozen(self._going), turns_of_frozen(self._going)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        going = self._going
        line = line_in_use(draft.session)
        past = past_rows(draft.session, draft.found, (number_of_row(row.row) for row in going))
        texts, turns = self._sealed
        seal = whole_seal(texts, turns, draft.recipe, line, self.office, past)
        # The transaction keeps every change out: what was computed must still be what stands here.
        refuse_changed(self.seal, seal)
        if draft.found.version != self.frozen.version or self._behind_the_record(draft):
            raise NotNow(
                "Something changed since the slips were shown, so nothing was sent.", "Look at them once more and send."
            )
        if not going:
            raise NotNow("No row is ready to be sent.", "See what holds them under Worth a look.")
        freeze(draft.session, draft.found, self.frozen.rows, draft.at, going)
        draft.found.line_id = line.id if line else None
        doubt_frozen(statements_of(draft.session), draft.found.id, draft.found.uid, draft.at)
        journal.close(draft.session, draft.found)
        return STARTED(texts=len(going))

    def _behind_the_record(self, draft: Draft) -> bool:
        """True when something came on record for one of this round's numbers since it was computed."""
        if self.frozen.read is None:
            return False
        concerned = {frozen.number for frozen in self.frozen.rows}
        return goes_on_since(draft.session, draft.found.id, self.frozen.read, concerned.__contains__)


def _while(*stages: Stage, refusal: str) -> Gate:
    def gate(session: Session, round_id: int) -> Round:
        return in_stage(session, round_id, set(stages), refusal)

    return gate


class Pause(Command):
    """No further text leaves; one that is just being handed over still gets its mark."""

    gate: ClassVar[Gate] = staticmethod(
        _while(Stage.SENDING, refusal="The round is not sending, so it cannot be paused.")
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        step_stage(draft.found, Stage.PAUSED)
        return PAUSED()


class GoOn(Command):
    """Goes on sending after a pause. `looked`: whoever presses it has read why it has to be looked at first."""

    gate: ClassVar[Gate] = staticmethod(_while(Stage.PAUSED, refusal="The round is not paused."))

    looked: bool = False

    @override
    def apply(self, draft: Draft) -> Reason | None:
        look_first(draft.found, looked=self.looked)
        step_stage(draft.found, Stage.SENDING)
        return GONE_ON()


class Stop(Command):
    """Ends the round: nothing more leaves. What has not gone is left out then, see `leave_rest_out`."""

    gate: ClassVar[Gate] = staticmethod(
        _while(Stage.SENDING, Stage.PAUSED, refusal="The round is not sending, so it cannot be stopped.")
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        step_stage(draft.found, Stage.STOPPED)
        draft.found.finished_at = draft.at
        return STOPPED()


def leave_rest_out(database: Database, round_id: int, at: datetime) -> None:
    """Leaves out what has not gone of a round that was stopped, and can be taken up again.

    Piece by piece, so that nobody waits long for the ledger; where this is cut off, the sender does the rest.
    """
    more = True
    while more:
        with database.writing_bare() as ledger:
            more = stage_now(ledger, round_id) == Stage.STOPPED and leave_some_out(ledger, round_id, at)


class TakeBack(Command):
    """Brings a round of which nothing went back to being prepared, such as one that is scheduled."""

    gate: ClassVar[Gate] = staticmethod(
        _while(Stage.SENDING, Stage.PAUSED, refusal="The round is not waiting to be sent, so it cannot be taken back.")
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        if not take_back(draft.session, draft.found):
            raise NotNow("Something of the round went already, so it cannot be taken back.", "Pause it, or stop it.")
        return TAKEN_BACK()


class TryAgain(Command):
    """Sends what did not go: the failed rows that may succeed, the stopped ones, or those not chosen at first.

    They are put to To go, and leave at the pace.
    `texts` is how many the clerk was told that there are, and `seal` stands for all that was said of them; `rows`
    (from 1), where not all of them are to go. `looked`: why the round has to be looked at first was read.
    `all_the_same` sends those not chosen at first also where another round texted about the same since.
    """

    gate: ClassVar[Gate] = staticmethod(
        _while(
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

    @override
    def apply(self, draft: Draft) -> Reason | None:
        found = draft.found
        if found.stage == Stage.STOPPED and any_to_go(draft.session, found.id):
            raise NotNow("The round is just being stopped.", "Wait a moment.")
        look_first(found, looked=self.looked)
        texts = still_to_try(draft.session, found, draft.at, self.which, self.rows, all_the_same=self.all_the_same)
        if len(texts) != self.texts:
            raise NotNow(
                f"Something changed meanwhile: there are {count(len(texts), 'text')} now, not {self.texts:,}.",
                "Look once more and send.",
            )
        refuse_changed(self.seal, later_seal(draft.session, found, texts))
        again(draft.session, found, draft.at, texts, _WHY_AGAIN[self.which]())
        return AGAIN(texts=len(texts), which=self.which)


class KeepBack(Command):
    """Leaves out what was not among those chosen to go. It can be taken up again."""

    gate: ClassVar[Gate] = staticmethod(
        _while(*set(Stage) - {Stage.PREPARING}, refusal="The round was not started, so every row can still be chosen.")
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        texts = keep_back(draft.session, draft.found.id, draft.at)
        return LEFT_BACK(texts=texts) if texts else None


class AskCarrier(Command):
    """Has the carrier asked now what became of the Unsure rows; hands nothing over."""

    gate: ClassVar[Gate] = staticmethod(round_of)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        draft.found.ask_wanted = True
        return ASKED()


class SettleByHand(Command):
    """Settles texts of which nobody can say whether they went, by somebody's word, who has looked or asked.

    `rows` (from 1) are theirs; None for all that are Unsure in the round. `went` says which it was, `reason` how it is
    known. A text whose carrier is just being asked is left to it.
    """

    gate: ClassVar[Gate] = staticmethod(
        _while(*set(Stage) - {Stage.PREPARING}, refusal="Nothing of this round was handed over.")
    )

    went: bool
    reason: str = Field(min_length=3, max_length=500)
    texts: int = Field(ge=1)
    rows: list[RowNumber] | None = Field(default=None, max_length=MAX_ROWS)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        why = " ".join(self.reason.split())
        if len(why) < 3:
            raise NotNow("Say in a few words how it is known.", "It stands in the ledger.")
        found, session = draft.found, draft.session
        unsure = with_mark(session, Mark.UNSURE, found.id)
        if self.rows is not None:
            bearing = bearing_rows(session, found.id, self.rows)
            unsure = [text for text in unsure if text.row in bearing]
        if len(unsure) != self.texts:
            raise NotNow(
                f"Something changed meanwhile: {count(len(unsure), 'text is', 'texts are')} unsure now, not "
                f"{self.texts:,}.",
                "Look once more.",
            )
        ledger = statements_of(session)
        if young := [text for text in unsure if still_settling(session, text, draft.at)]:
            raise NotNow(
                f"The carrier is still being asked about row {young[0].row}: it may take the text yet.",
                "Wait a minute or two; then settle what is left.",
            )
        for text in unsure:
            settle_by_hand(ledger, text, draft.at, why, went=self.went)
        return SETTLED(texts=len(unsure), went=self.went, why=why)


class GoByLine(Command):
    """Has a round that waits for a line go by the one in use now.

    `identity` is that of the line, and `texts` how many are to go by it, as the clerk was told.
    """

    gate: ClassVar[Gate] = staticmethod(
        _while(*set(Stage) - {Stage.PREPARING}, refusal="The round was not started: it goes by the line in use.")
    )

    identity: str
    texts: int = Field(ge=0)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        now = line_in_use(draft.session)
        if now is None or now.identity != self.identity:
            raise NotNow("Another line is in use by now.", "Look once more.")
        if (left := len(with_mark(draft.session, Mark.TO_GO, draft.found.id))) != self.texts:
            raise NotNow(f"{count(left, 'text is', 'texts are')} to go now, not {self.texts:,}.", "Look once more.")
        if with_mark(draft.session, Mark.GOING, draft.found.id):
            raise NotNow("A text is just being handed over.", "Wait until it has its mark.")
        if draft.found.line_id == now.id:
            return None
        draft.found.line_id = now.id
        draft.found.version += 1
        return OTHER_LINE_CHOSEN(line=now.name)


def refuse_changed(seal: str, now: str) -> None:
    """Raises NotNow, with what it is, where anything is another than it was confirmed."""
    if differs := what_differs(seal, now):
        raise NotNow(
            f"Since it was confirmed, {differs} changed, so nothing was sent.",
            "Look at it once more and send.",
        )


def look_first(found: Round, *, looked: bool) -> None:
    """A round that has to be looked at goes on only once somebody says that this was done. Raises NotNow."""
    if found.look_first and not looked:
        raise NotNow(found.look_first, "Say that you have looked.")
    found.look_first = ""


def later_seal(session: Session, found: Round, texts: list[Message]) -> str:
    """The seal of texts of a started round that may still be sent: see `whole_seal`."""
    line = line_of_round(session, found)
    return whole_seal(seal_of_locked(texts), turns_of_locked(texts), recipe_of(found), line, "")


def past_rows(session: Session, found: Round, rows: Iterable[RowNumber]) -> int:
    """How many of a round's rows (from 1) are known to have been handed over from a later state of the ledger."""
    doubted = doubted_rows(statements_of(session), found.uid)
    return sum(row in doubted for row in rows) if doubted else 0


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
