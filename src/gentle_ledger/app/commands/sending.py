"""Commands about sending: start, pause, go on, stop, try again, and asking the carrier.

They write to the store alone; whoever sends reads it there.
"""

from collections.abc import Callable, Collection, Mapping
from datetime import datetime
from typing import ClassVar, Literal

from pydantic import Field
from sqlalchemy.orm import Session
from typing_extensions import override

from gentle_ledger.app.counting.jobs import Frozen
from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command, Gate
from gentle_ledger.app.seal import seal_of_frozen
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber, row_of_number
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.frozen import those_to_go
from gentle_ledger.core.rounds.marks import CHOSEN, TAKEN_UP, TO_BE_TRIED
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.model import MAX_ROWS
from gentle_ledger.store import journal
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.history import goes_on_since, not_superseded, still_wanted
from gentle_ledger.store.messages import (
    again,
    bearing_rows,
    freeze,
    keep_back,
    may_be_tried_again,
    not_chosen,
    stop_what_is_to_go,
    stopped_before_turn,
    take_back,
)
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import recipe_of, round_of
from gentle_ledger.store.stages import in_stage, step_stage

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
ASKED = reason_kind("carrier asked", "the carrier asked about the unsure rows")


class Start(Command):
    """Freezes exactly what the seal stands for and starts sending; anything else is refused.

    `frozen` is the round as it was computed before the transaction began. `rows` (from 1) are those that were chosen;
    None for all. What is ready and was not chosen is written down too, and waits.
    """

    seal: str
    frozen: Frozen
    rows: list[RowNumber] | None = None

    @override
    def apply(self, draft: Draft) -> Reason | None:
        chosen = None if self.rows is None else {row_of_number(row) for row in self.rows}
        going = those_to_go(self.frozen.rows, chosen)
        as_seen = seal_of_frozen(going) == self.seal
        # The transaction keeps every change out: what was computed must still be what stands here.
        if draft.found.version != self.frozen.version or not as_seen or self._behind_the_record(draft):
            raise NotNow(
                "Something changed since the slips were shown, so nothing was sent.", "Look at them once more and send."
            )
        if not going:
            raise NotNow("No row is ready to be sent.", "See what holds them under Worth a look.")
        freeze(draft.session, draft.found, self.frozen.rows, draft.at, going)
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
    """Goes on sending after a pause."""

    gate: ClassVar[Gate] = staticmethod(_while(Stage.PAUSED, refusal="The round is not paused."))

    @override
    def apply(self, draft: Draft) -> Reason | None:
        step_stage(draft.found, Stage.SENDING)
        return GONE_ON()


class Stop(Command):
    """Ends the round: what has not gone is left out, and can be taken up again."""

    gate: ClassVar[Gate] = staticmethod(
        _while(Stage.SENDING, Stage.PAUSED, refusal="The round is not sending, so it cannot be stopped.")
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        step_stage(draft.found, Stage.STOPPED)
        draft.found.finished_at = draft.at
        stop_what_is_to_go(draft.session, draft.found.id, draft.at)
        return STOPPED()


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
    `texts` is how many the clerk was told that there are; `rows` (from 1), where not all of them are to go.
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
    rows: list[RowNumber] | None = Field(default=None, max_length=MAX_ROWS)
    all_the_same: bool = False

    @override
    def apply(self, draft: Draft) -> Reason | None:
        found = draft.found
        texts = still_to_try(draft.session, found, draft.at, self.which, self.rows, all_the_same=self.all_the_same)
        if len(texts) != self.texts:
            raise NotNow(
                f"Something changed meanwhile: there are {count(len(texts), 'text')} now, not {self.texts:,}.",
                "Look once more and send.",
            )
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
