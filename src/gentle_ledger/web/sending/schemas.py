"""What the browser gets and sends about sending."""

from datetime import datetime
from enum import StrEnum
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.model import MAX_ROWS
from gentle_ledger.web.forecast.schemas import LeavingOut
from gentle_ledger.web.rounds.schemas import Estimate
from gentle_ledger.web.rows.schemas import SlipOut
from gentle_ledger.web.schemas import Counts, NextOut


class ShownSlip(BaseModel):
    why: str
    slip: SlipOut


class Share(BaseModel):
    """How many of the texts go to one country, or read one wording."""

    name: str
    texts: int


class ChosenIn(BaseModel):
    """The rows that are to be sent; null for all."""

    model_config = ConfigDict(extra="forbid")

    rows: list[Annotated[RowNumber, Field(ge=1)]] | None = Field(default=None, max_length=MAX_ROWS)


class LaterIn(ChosenIn):
    """The rows that are to be sent, and whether also those about which another round texted since."""

    all_the_same: bool = False


class ChosenSum(Estimate):
    """What some rows come to, and when their texts leave."""

    ahead: LeavingOut


class Confirmation(BaseModel):
    """What the clerk reads before sending.

    `seal` stands for all that it says, and goes with what is pressed.
    """

    seal: str
    past: int = Field(
        description="How many of the texts were handed over before an older copy of the ledger was put back."
    )
    look_first: str = Field(description="Why the round has to be looked at before anything of it is sent; or blank.")
    locked_at: datetime | None = Field(description="When they were locked; null for texts that are locked by sending.")
    line: str
    texts: int
    parts: int
    numbers: int
    numbers_from: str = Field(description="The column that has them; blank where they are in one column only.")
    passed_over: list[str] = Field(description="Other columns with phone numbers, to which nothing goes.")
    countries: list[Share]
    wordings: list[Share]
    odd: int = Field(description="How many of the texts are odd.")
    unseen_odd: int = Field(description="How many of these nobody has looked at as they are.")
    unseen: int = Field(description="How many of all texts nobody has looked at.")
    changed: int = Field(description="How many of those were looked at, and are others by now.")
    held: int
    left_out: int
    waiting: int = Field(description="How many further texts are ready and were not chosen.")
    given_way: int = Field(
        description="Of those locked before: how many are not sent because another round sent the same words since, or "
        "no more texts were asked for."
    )
    superseded: int = Field(
        description="Of those locked before: about how many another round texted since. They go only all the same."
    )
    rehearsed: str | None = Field(description="When the round was rehearsed, what came of it, and whether it changed.")
    ahead: LeavingOut
    cost: str | None
    slips: list[ShownSlip]


class StartIn(ChosenIn):
    seal: str


class GoOnIn(BaseModel):
    """`looked`: why the round has to be looked at first was read."""

    model_config = ConfigDict(extra="forbid")

    looked: bool = False


class LineOut(BaseModel):
    """A round was confirmed for another line than the one in use now, and waits for it; each by its identity.

    `texts` are still to go, and cost so much by the one in use now, ready to read; null without a price.
    """

    confirmed: str
    now: str
    texts: int
    cost: str | None


class FailureOut(BaseModel):
    reason: str
    texts: int
    may_retry: bool


class AwayOut(BaseModel):
    """Why nothing leaves at present. `since` is None when it is this machine's own trouble, such as a full disk."""

    reason: str
    since: datetime | None
    looks_in_ms: int | None


class SenderPlace(StrEnum):
    """Whether anybody sends from this ledger."""

    THERE = "there"
    NOWHERE = "nowhere"


class TallyOut(BaseModel):
    """A whole picture of a started round, so that any single one of them is enough.

    `entry` is the number of the ledger's newest entry: of two pictures with one version, the larger one is newer.
    `counts` are rows, as the grid shows them; everything else is counted in texts: several combined rows are one.
    `strokes` has one letter a stroke: t to go, g going, s sent, f failed, u unsure; `texts_a_stroke` texts each.
    """

    stage: Stage
    version: int
    entry: int
    note: str
    sentence: str
    counts: list[Counts]
    texts: list[Counts]
    strokes: str
    texts_a_stroke: int
    next: NextOut | None
    next_in_ms: int | None
    waits: str = Field(description="Why nothing leaves for a while, and when it goes on; blank while texts leave.")
    away: AwayOut | None
    sender: SenderPlace = Field(description="Whether any process sends from this ledger.")
    last_leaves_at: datetime | None
    last_leaves: str = Field(description="The same ready to read, by the clocks of the office; blank where unknown.")
    failures: list[FailureOut]
    scheduled: str | None = Field(description="When the round begins, where that is later; ready to read.")
    slowed: str = Field(description="That the line is slower than usual at the carrier's wish; blank where it is not.")
    may_take_back: bool = Field(description="Whether nothing went, so that it can be prepared again.")
    may_try_again: int
    may_take_up: int
    seal_of_failed: str = Field(description="Stands for all that is said of the failed texts that can be tried again.")
    seal_of_stopped: str = Field(description="The same of those that can be taken up.")
    look_first: str = Field(description="Why the round goes on only after somebody has looked; or blank.")
    line: LineOut | None = Field(description="The line that the round waits for, where another one is in use.")
    ready: int = Field(description="Texts that were not among those chosen to go, or were mended, and can be sent.")
    mended: int = Field(description="Those of them that were mended since sending began.")
    unsure: int
