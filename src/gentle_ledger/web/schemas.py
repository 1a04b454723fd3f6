"""What the browser gets and sends. Everything a person reads as a figure is worked out before it gets here."""

from datetime import date, datetime

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.recipe.combine import How
from gentle_ledger.core.recipe.model import MOST_CHARACTERS, CombineSettings, LeaveOutRule, PaceSettings
from gentle_ledger.core.rounds.marks import Stage


class Problem(BaseModel):
    """RFC 9457 problem details; `detail` is the sentence for the clerk."""

    type: str
    title: str
    status: int
    detail: str
    kind: str
    row: int | None = None
    column: str | None = None
    theirs: str | None = None


class Counts(BaseModel):
    """How many rows have each mark, in the order they are shown."""

    mark: str
    rows: int


class RoundInList(BaseModel):
    id: int
    title: str
    stage: Stage
    file_name: str
    rows: int
    counts: list[Counts]
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None


class PlaceOut(BaseModel):
    """What is wrong from `start` to `end`, and what to do; they count UTF-16 units, as the browser does."""

    start: int
    end: int
    message: str
    remedy: str


class AnswerOut(BaseModel):
    """One answer to how a column is read, and what its cells would then be."""

    order: Order
    then: str


class QuestionOut(BaseModel):
    """What the cells of a column leave open about how they are read."""

    ask: str
    answers: list[AnswerOut]


class ColumnOut(BaseModel):
    """A column of the sheet, or a computed one: by a `formula` or by a link `template`."""

    name: str
    role: Role
    recognised: Role
    fallback: str | None
    format: str | None
    formula: str | None
    template: str | None
    problem: PlaceOut | None = Field(description="Why its formula or template cannot be used.")
    reading: Order | None
    read_as: Order | None = Field(
        description="How its cells are taken, where that was answered or is not as usual for the locale."
    )
    evidence: str = Field(description="Why its cells are read as they are, in a sentence; empty where none is needed.")
    question: QuestionOut | None = Field(description="What its cells leave open, until it is answered.")
    awaited: bool = Field(description="Whether rows of the round wait for the answer.")
    used: bool = Field(description="Whether the wording uses it.")
    doc: str = Field(description="What such a column is for.")
    example: str = Field(description="The first of its cells that has something in it, as it stands in a text.")
    characters: int = Field(
        description="How many characters its first cells have at most; nearly all of them, unless they are figures."
    )
    to_the_right: bool
    blanks: int


class RuleOut(BaseModel):
    """A rule that leaves rows out."""

    when: str
    reason: str
    problem: PlaceOut | None


class CombineOut(BaseModel):
    """How rows of one person become one text, and how many there are."""

    by: str
    columns: dict[str, How]
    problem: str | None
    texts: int = Field(description="How many texts are made from several rows.")
    rows: int = Field(description="How many rows these texts are made from.")


class HowOut(BaseModel):
    """What a combined row may have in a column."""

    how: How
    doc: str


class FormatOut(BaseModel):
    """A way of writing values; `doc` says what may stand behind its word."""

    way: str
    doc: str


class FindingOut(BaseModel):
    """All findings of one check together."""

    check: str
    label: str
    holds: bool
    rows: int
    sentence: str
    doc: str


class RoleOut(BaseModel):
    role: Role
    doc: str


class Estimate(BaseModel):
    """What the ready texts add up to; `lasting` and `cost` are ready to read."""

    texts: int
    parts: int
    lasting: str
    last_leaves_at: datetime
    cost: str | None


class SentColumn(BaseModel):
    """A column that says which rows were sent. `left_out` is None until somebody has said whether it does."""

    column: str
    ours: bool
    rows: int
    example: str
    left_out: bool | None


class UnmatchedOut(BaseModel):
    """A column that the set-up speaks of and that is not there.

    `uses` says what names it, `goes` whether what is said of it can be taken out: combining, rules and settings can.
    """

    name: str
    uses: list[str]
    goes: bool


class Desk(BaseModel):
    """A round as its desk shows it."""

    id: int
    version: int
    title: str
    stage: Stage
    file_name: str
    worksheet: str | None
    reading: str = Field(description="What was left out of the file when it was read.")
    undo: str | None = Field(description="What Undo would take back.")
    redo: str | None = Field(description="What Redo would do again.")
    rows: int
    as_of: date | None
    region: str
    region_name: str
    currency: str
    locale: str
    wording: str
    wording_problems: list[PlaceOut]
    pace: PaceSettings
    line: str
    columns: list[ColumnOut]
    roles: list[RoleOut]
    unmatched: list[UnmatchedOut] = Field(description="Columns that the set-up speaks of and that are not there.")
    hidden: int = Field(description="How many rows the workbook does not show.")
    leave_out_hidden: bool = Field(description="Whether these are left out.")
    doubled: list[str] = Field(description="Columns that the sheet has and the set-up computes: which counts is asked.")
    sent_columns: list[SentColumn] = Field(description="Columns that say, or seem to say, which rows were sent.")
    unusable: list[str] = Field(description="Parts of the kept set-up that cannot be used; nothing is sent until then.")
    formats: list[FormatOut]
    plain_signs: bool
    repeat_days: int
    lookups: dict[str, dict[str, str]]
    leave_out: list[RuleOut]
    combine: CombineOut | None
    hows: list[HowOut]
    counts: list[Counts]
    findings: list[FindingOut]
    estimate: Estimate | None = Field(description="What sending would come to; null once sending has started.")
    started_at: datetime | None
    finished_at: datetime | None


class Progress(BaseModel):
    """How far the counting of all rows is, roughly."""

    percent: int


class CellOut(BaseModel):
    """A cell as it stands in a text; `typed` is what stood in the file where that differs."""

    shown: str
    typed: str | None = None
    trouble: str | None = None
    explained: str | None = Field(default=None, description="How a cell came about, or how it is read.")
    original: str | None = Field(default=None, description="What stood there before it was mended.")


class RowOut(BaseModel):
    number: int
    mark: str
    reason: str
    at: datetime | None
    releasable: bool = Field(description="Whether the clerk may release the row from what holds it.")
    cells: list[CellOut]


class Rows(BaseModel):
    """A window of the rows that fit the filter."""

    version: int
    total: int
    offset: int
    rows: list[RowOut]


class RunOut(BaseModel):
    text: str
    column: str | None
    gap: bool
    opens: str | None = Field(default=None, description="The whole link that this is, or is a part of.")


class BeyondOut(BaseModel):
    name: str
    position: int
    column: str | None


class HistoryOut(BaseModel):
    at: datetime
    mark: str
    reason: str
    reference: str | None


class RowFinding(BaseModel):
    reason: str
    holds: bool


class SlipOut(BaseModel):
    """A row's text as it will arrive, or as it was sent, part by part."""

    row: int
    together: list[int] = Field(description="The rows that the text is made from, when they are several.")
    label: str
    number: str
    number_problem: str
    parts: list[list[RunOut]]
    whole: bool
    alphabet: str
    characters: int
    room: int
    cost: str | None
    beyond: BeyondOut | None


class Standing(BaseModel):
    """Where a row stands: its mark, what the checks found, and, once sending started, what happened to it."""

    row: int
    mark: str
    releasable: bool
    findings: list[RowFinding]
    history: list[HistoryOut]


class WordingIn(BaseModel):
    wording: str = Field(max_length=MOST_CHARACTERS)
    was: str | None = Field(
        default=None,
        max_length=MOST_CHARACTERS,
        description="The wording that this one was written over; another one that stands there by now is not replaced.",
    )
    row: int = Field(ge=1)


class WordingOut(BaseModel):
    """The answer to a keystroke: what is wrong with the wording, and the slip of the selected row."""

    version: int
    wording_problems: list[PlaceOut]
    slip: SlipOut


class SetupIn(BaseModel):
    """What of a round's set-up changes; what is not named stays."""

    model_config = ConfigDict(extra="forbid")

    title: str | None = Field(default=None, min_length=1, max_length=200)
    as_of: date | None = None
    region: str | None = None
    currency: str | None = None
    locale: str | None = None
    pace: PaceSettings | None = None
    plain_signs: bool | None = None
    leave_out_hidden: bool | None = None
    repeat_days: int | None = Field(default=None, ge=0, le=3_650)
    lookups: dict[str, dict[str, str]] | None = None
    leave_out: list[LeaveOutRule] | None = None
    combine: CombineSettings | None = None


class NextOut(BaseModel):
    row: int
    label: str


class KeepIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    left_out: bool | None = None
    released: bool | None = None


class ShownSlip(BaseModel):
    why: str
    slip: SlipOut


class Confirmation(BaseModel):
    """What the clerk reads before sending; `seal` stands for exactly these numbers and texts."""

    seal: str
    line: str
    texts: int
    parts: int
    numbers: int
    held: int
    left_out: int
    lasting: str
    last_leaves_at: datetime
    cost: str | None
    slips: list[ShownSlip]


class StartIn(BaseModel):
    seal: str


class AgainIn(BaseModel):
    """`failed`: the failed rows that may succeed a second time; `stopped`: those that Stop left out."""

    which: str = Field(pattern="^(failed|stopped)$")
    texts: int = Field(ge=1, description="How many the clerk was told; another number is refused.")


class FailureOut(BaseModel):
    reason: str
    texts: int
    may_retry: bool


class AwayOut(BaseModel):
    """Why nothing leaves at present. `since` is None when it is this machine's own trouble, such as a full disk."""

    reason: str
    since: datetime | None
    looks_in_ms: int | None


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
    away: AwayOut | None
    sender_elsewhere: bool
    last_leaves_at: datetime | None
    failures: list[FailureOut]
    may_try_again: int
    may_take_up: int
    unsure: int


class Sample(BaseModel):
    file_name: str
    title: str
    about: str
