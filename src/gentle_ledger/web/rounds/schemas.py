"""What the browser gets and sends about a round as a whole."""

from datetime import date, datetime
from enum import StrEnum
from typing import Literal

from pydantic import BaseModel, Field

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.checks.model import Mend
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.model import CheckLevel
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.recipe.part import MOST_CHARACTERS
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.web.columns.schemas import ColumnOut, CountryAsked, NumberColumnOut, SentColumn, UnmatchedOut
from gentle_ledger.web.rows.schemas import SlipOut
from gentle_ledger.web.schemas import Counts, FieldOut, NextOut, PlaceOut


class UnderWay(StrEnum):
    """What a round that is under way is doing. Stuck: nothing leaves until somebody else does something."""

    SENDING = "sending"
    WAITING = "waiting"
    SCHEDULED = "scheduled"
    STUCK = "stuck"
    PAUSED = "paused"
    PAUSED_ITSELF = "paused by itself"


class RoundInList(BaseModel):
    id: int
    title: str
    stage: Stage
    file_name: str
    rows: int
    counts: list[Counts]
    under_way: UnderWay | None = Field(description="What a round that is under way is doing; null for any other.")
    says: str = Field(description="Where it stands in words: until when it waits, for what, why it is paused.")
    strokes: str = Field(description="A small tally of a round that is under way; blank for any other.")
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None


class RuleOut(BaseModel):
    """A rule that leaves rows out."""

    when: str
    reason: str
    problem: PlaceOut | None


class CombineOut(BaseModel):
    """How rows of one person become one text, and how many there are."""

    by: str
    columns: dict[str, Aggregate]
    problem: str | None
    texts: int = Field(description="How many texts are made from several rows.")
    rows: int = Field(description="How many rows these texts are made from.")


class FindingOut(BaseModel):
    """All findings of one check together."""

    check: str
    label: str
    holds: bool
    rows: int
    first: RowNumber = Field(description="The first of these rows.")
    column: str | None = Field(description="The column that it is about in that row, if it is about one.")
    sentence: str
    doc: str
    do: str = Field(description="What the clerk can do about it.")
    mends: list[Mend] = Field(description="What can be done about its rows at one press.")


class Estimate(BaseModel):
    """What some texts add up to; `cost` is ready to read."""

    texts: int
    parts: int
    cost: str | None


class WordingOfRound(BaseModel):
    """One of a round's wordings; the last one is for all the rest and has neither a name nor a condition."""

    name: str | None
    when: str
    when_problem: PlaceOut | None
    text: str
    problems: list[PlaceOut]
    fields: list[FieldOut]
    rows: int | None = Field(description="How many rows read it; null once sending has started.")


class TogetherAsked(BaseModel):
    """Rows with the same number, or what else they are combined by, and different names."""

    rows: list[NextOut]
    in_all: int


class Desk(BaseModel):
    """A round as its desk shows it."""

    id: int
    uid: str = Field(description="A random id, by which a round of another ledger is told apart.")
    version: int
    title: str
    stage: Stage
    file_name: str
    worksheet: str | None
    reading: str = Field(description="What was left out of the file when it was read.")
    undo: str | None = Field(description="What Undo would take back.")
    redo: str | None = Field(description="What Redo would do again.")
    change: int | None = Field(default=None, description="The change that this is the answer to, by its number.")
    rows: int
    as_of: date | None
    region: str
    numbers_of: str
    currency: str
    currency_name: str
    locale: str
    wording: str
    ready_texts: str | None = Field(description="A column of whole texts, offered while nothing is written yet.")
    wordings: list[WordingOfRound] = Field(description="In the order in which they are tried, that one as the last.")
    pace: PaceSettings
    line: str
    columns: list[ColumnOut]
    unmatched: list[UnmatchedOut] = Field(description="Columns that the set-up speaks of and that are not there.")
    hidden: int = Field(description="How many rows the workbook does not show.")
    leave_out_hidden: bool = Field(description="Whether these are left out.")
    doubled: list[str] = Field(description="Columns that the sheet has and the set-up computes: which counts is asked.")
    sent_columns: list[SentColumn] = Field(description="Columns that say, or seem to say, which rows were sent.")
    which_number: list[NumberColumnOut] = Field(description="Columns among which it is a question where texts go to.")
    countries: list[str] = Field(description="Countries besides the round's own whose numbers were said to be right.")
    together: list[TogetherAsked] = Field(
        description="Rows that are to be combined and whose names are of different people; the first few."
    )
    together_in_all: int
    belong_together: int = Field(description="Of how many it was said that they belong together.")
    which_country: list[CountryAsked] = Field(description="Those of other numbers, of which it is a question.")
    unusable: list[str] = Field(description="Parts of the kept set-up that cannot be used; nothing is sent until then.")
    plain_signs: bool
    repeat_days: int
    lately_days: int
    checks: dict[str, CheckLevel] = Field(description="The levels that are set for this round, by the checks' keys.")
    sender: str
    lookups: dict[str, dict[str, str]]
    leave_out: list[RuleOut]
    combine: CombineOut | None
    counts: list[Counts]
    findings: list[FindingOut]
    estimate: Estimate | None = Field(description="What sending would come to; null once sending has started.")
    started_at: datetime | None
    finished_at: datetime | None


class VersionOut(BaseModel):
    """How far a round has come."""

    version: int
    stage: Stage


class Progress(BaseModel):
    """How far the counting of all rows is, roughly."""

    percent: int


class WordingIn(BaseModel):
    of: str | None = Field(default=None, description="The wording's name; null for the one for all the rest.")
    wording: str = Field(max_length=MOST_CHARACTERS)
    was: str | None = Field(
        default=None,
        max_length=MOST_CHARACTERS,
        description="The wording that this one was written over; another one that stands there by now is not replaced.",
    )
    row: RowNumber = Field(ge=1)


class WordingOut(BaseModel):
    """The answer to a keystroke: what is wrong with the wording, and the slip of the selected row."""

    version: int
    of: str | None
    wording: str = Field(description="The wording that this is about.")
    wording_problems: list[PlaceOut]
    wording_fields: list[FieldOut]
    slip: SlipOut


class ChangedPart(BaseModel):
    """One thing that a change made another: where, and what stood there before and after."""

    where: str
    before: str
    after: str


class ChangeOut(BaseModel):
    """One line of the journal of a round."""

    id: int
    at: datetime
    by: str
    what: str
    parts: list[ChangedPart] = Field(description="The first few things that became others.")
    more: int = Field(description="How many further ones there are.")
    undone_at: datetime | None
    undone_by: str | None
    can_be: Literal["undone", "redone"] | None = Field(
        description="What can be done about it now, together with what came after it, or before it."
    )


class Changes(BaseModel):
    """What was changed in a round, the newest first; `more` says whether there are older ones."""

    title: str
    changes: list[ChangeOut]
    more: bool
