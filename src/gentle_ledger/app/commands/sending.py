"""Commands about sending: start, pause, go on, stop, try again, and asking the carrier.

They write to the store alone; whoever sends reads it there.
"""

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
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.marks import TAKEN_UP, TO_BE_TRIED
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store import journal
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.history import goes_on_since, still_wanted
from gentle_ledger.store.messages import (
    again,
    freeze,
    may_be_tried_again,
    stop_what_is_to_go,
    stopped_before_turn,
)
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import recipe_of, round_of
from gentle_ledger.store.stages import in_stage, step_stage

STARTED = reason_kind("sending started", lambda texts: f"sending {count(texts, 'text')} began")
PAUSED = reason_kind("sending paused", "sending paused")
GONE_ON = reason_kind("sending gone on", "sending went on")
STOPPED = reason_kind("sending stopped", "sending stopped")
AGAIN = reason_kind(
    "sending again", lambda texts, failed: f"{count(texts, 'text')} {'tried again' if failed else 'taken up again'}"
)
ASKED = reason_kind("carrier asked", "the carrier asked about the unsure rows")


class Start(Command):
    """Freezes exactly what the seal stands for and starts sending; anything else is refused.

    `frozen` is the round as it was computed before the transaction began.
    """

    seal: str
    frozen: Frozen

    @override
    def apply(self, draft: Draft) -> Reason | None:
        as_seen = seal_of_frozen(self.frozen.rows) == self.seal
        # The transaction keeps every change out: what was computed must still be what stands here.
        if draft.found.version != self.frozen.version or not as_seen or self._behind_the_record(draft):
            raise NotNow(
                "Something changed since the slips were shown, so nothing was sent.", "Look at them once more and send."
            )
        texts = sum(frozen.goes for frozen in self.frozen.rows)
        if not texts:
            raise NotNow("No row is ready to be sent.", "See what holds them under Worth a look.")
        freeze(draft.session, draft.found, self.frozen.rows, draft.at)
        journal.close(draft.session, draft.found)
        return STARTED(texts=texts)

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


class TryAgain(Command):
    """Puts the failed rows that may succeed, or the stopped ones, back to To go, and sends them at the pace.

    `texts` is how many the clerk was told that there are.
    """

    gate: ClassVar[Gate] = staticmethod(round_of)

    which: Literal["failed", "stopped"]
    texts: int = Field(ge=1)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        found, failed = draft.found, self.which == "failed"
        rows = still_to_try(draft.session, found, draft.at, failed=failed)
        if len(rows) != self.texts:
            raise NotNow(
                f"Something changed meanwhile: there are {count(len(rows), 'text')} now, not {self.texts:,}.",
                "Look once more and send.",
            )
        again(draft.session, found, draft.at, rows, (TO_BE_TRIED if failed else TAKEN_UP)())
        return AGAIN(texts=len(rows), failed=failed)


class AskCarrier(Command):
    """Has the carrier asked now what became of the Unsure rows; hands nothing over."""

    gate: ClassVar[Gate] = staticmethod(round_of)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        draft.found.ask_wanted = True
        return ASKED()


def still_to_try(session: Session, found: Round, at: datetime, *, failed: bool) -> list[Message]:
    """The texts that may be sent after all: failed ones that may succeed, or those that Stop kept back.

    What another round has sent to the same number meanwhile, word for word, is not among them; nor is a text to
    somebody who asked for no more of them.
    """
    texts = may_be_tried_again(session, found.id) if failed else stopped_before_turn(session, found.id)
    return still_wanted(session, texts, recipe_of(found).repeat_days, at)
