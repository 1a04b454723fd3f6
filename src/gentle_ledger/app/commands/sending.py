"""Commands about sending that is under way: pause, go on, stop, another line, and asking the carrier.

They write to the store alone; whoever sends reads it there.
"""

from datetime import datetime
from typing import ClassVar

from pydantic import Field
from sqlalchemy.orm import Session
from typing_extensions import override

from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command, Gate
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.lines import line_in_use
from gentle_ledger.store.messages import (
    how_many,
    with_mark,
)
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import round_of
from gentle_ledger.store.stages import in_stage, stage_now, step_stage
from gentle_ledger.store.steps import leave_some_out

PAUSED = reason_kind("sending paused", "sending paused")
GONE_ON = reason_kind("sending gone on", "sending went on")
STOPPED = reason_kind("sending stopped", "sending stopped")

OTHER_LINE_CHOSEN = reason_kind("other line chosen", "the round goes by the line {line} from now on")
ASKED = reason_kind("carrier asked", "the carrier asked about the unsure rows")


def while_in(*stages: Stage, refusal: str) -> Gate:
    """The gate of a command that is for rounds in some stages, and refused otherwise."""

    def gate(session: Session, round_id: int) -> Round:
        return in_stage(session, round_id, set(stages), refusal)

    return gate


class Pause(Command):
    """No further text leaves; one that is just being handed over still gets its mark."""

    gate: ClassVar[Gate] = staticmethod(
        while_in(Stage.SENDING, refusal="The round is not sending, so it cannot be paused.")
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        step_stage(draft.found, Stage.PAUSED)
        return PAUSED()


class GoOn(Command):
    """Goes on sending after a pause. `looked`: whoever presses it has read why it has to be looked at first."""

    gate: ClassVar[Gate] = staticmethod(while_in(Stage.PAUSED, refusal="The round is not paused."))

    looked: bool = False

    @override
    def apply(self, draft: Draft) -> Reason | None:
        look_first(draft.found, looked=self.looked)
        step_stage(draft.found, Stage.SENDING)
        return GONE_ON()


class Stop(Command):
    """Ends the round: nothing more leaves. What has not gone is left out then, and can be taken up again.

    That is done piece by piece; where it is cut off, the sender does the rest.
    """

    gate: ClassVar[Gate] = staticmethod(
        while_in(Stage.SENDING, Stage.PAUSED, refusal="The round is not sending, so it cannot be stopped.")
    )

    @override
    def apply(self, draft: Draft) -> Reason | None:
        step_stage(draft.found, Stage.STOPPED)
        draft.found.finished_at = draft.at
        return STOPPED()

    @override
    def finish(self, database: Database, round_id: int, at: datetime) -> None:
        more = True
        while more:
            with database.writing_bare(piece=True) as ledger:
                more = stage_now(ledger, round_id) == Stage.STOPPED and leave_some_out(ledger, round_id, at)


class AskCarrier(Command):
    """Has the carrier asked now what became of the Unsure rows; hands nothing over."""

    gate: ClassVar[Gate] = staticmethod(round_of)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        draft.found.ask_wanted = True
        return ASKED()


class GoByLine(Command):
    """Has a round that waits for a line go by the one in use now.

    `identity` is that of the line, and `texts` how many are to go by it, as the clerk was told.
    """

    gate: ClassVar[Gate] = staticmethod(
        while_in(*set(Stage) - {Stage.PREPARING}, refusal="The round was not started: it goes by the line in use.")
    )

    identity: str
    texts: int = Field(ge=0)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        now = line_in_use(draft.session)
        if now is None or now.identity != self.identity:
            raise NotNow("Another line is in use by now.", "Look once more.")
        if (left := how_many(draft.session, Mark.TO_GO, draft.found.id)) != self.texts:
            raise NotNow(f"{count(left, 'text is', 'texts are')} to go now, not {self.texts:,}.", "Look once more.")
        if with_mark(draft.session, Mark.GOING, draft.found.id):
            raise NotNow("A text is just being handed over.", "Wait until it has its mark.")
        if draft.found.line_id == now.id:
            return None
        draft.found.line_id = now.id
        draft.found.version += 1
        return OTHER_LINE_CHOSEN(line=now.name)


def look_first(found: Round, *, looked: bool) -> None:
    """A round that has to be looked at goes on only once somebody says that this was done. Raises NotNow."""
    if found.look_first and not looked:
        raise NotNow(found.look_first, "Say that you have looked.")
    found.look_first = ""
