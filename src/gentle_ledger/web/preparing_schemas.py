"""What the browser gets and sends about sheets, numbers and columns while a round is prepared."""

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.tidy import Action
from gentle_ledger.core.recipe.model import MOST_CHARACTERS
from gentle_ledger.core.sheets.bring_in import Part
from gentle_ledger.web.schemas import NextOut, PlaceOut, QuestionOut


class ReadAs(BaseModel):
    """How a column of a file is read: by which order of its days, or which decimal mark, and why."""

    name: str
    role: Role
    order: Order | None
    evidence: str
    question: QuestionOut | None


class CharactersOut(BaseModel):
    """A way of reading a text file's characters: its name, where it is used, and a word of the file read so."""

    name: str
    about: str
    word: str


class GlanceOut(BaseModel):
    """How a file would be read: its first lines as they stand, and what would become of them."""

    worksheets: list[str]
    worksheet: str | None
    lines: list[list[str]]
    parts: list[Part] = Field(description="What each of the lines is taken for; empty when it cannot be brought in.")
    header: int | None = Field(description="The line taken for the column names, from 1.")
    columns: list[str]
    read_as: list[ReadAs | None] = Field(
        description="How the column under each cell of the line of names is read; none where no column is."
    )
    rows: int
    reading: str
    trouble: str | None = Field(description="Why it cannot be brought in like this.")
    characters: list[CharactersOut] = Field(
        description="How its characters could be read, where that is a question; the lines show the first of them."
    )
    asks: bool = Field(description="Whether something in it is for the clerk to decide or to know first.")


class MendIn(BaseModel):
    """A cell's new content; blank for none."""

    model_config = ConfigDict(extra="forbid")

    column: str
    typed: str = Field(max_length=MAX_CELL_CHARACTERS)


class ChangeOut(BaseModel):
    row: int
    label: str
    column: str
    before: str
    after: str


class NewerOut(BaseModel):
    """What a newer version of the sheet brings, to be looked at before it is taken; the first few of each."""

    version: int
    key: str
    keys: list[str] = Field(description="The columns that can say which row is which.")
    rows: int
    new: int
    changed: int
    gone: int
    new_rows: list[NextOut]
    gone_rows: list[NextOut]
    changes: list[ChangeOut]
    columns_new: list[str]
    columns_gone: list[str]
    reading: str


class GroupAction(BaseModel):
    action: Action
    label: str


class NumberGroup(BaseModel):
    key: str
    sentence: str
    rows: int
    wrong: bool
    actions: list[GroupAction]


class NumberOut(BaseModel):
    """A number as typed and as read; `country`, `kind` and `zone` are "" where it could not be read."""

    row: int
    label: str
    typed: str
    e164: str
    country: str
    kind: str
    zone: str
    problem: str


class NumbersOut(BaseModel):
    """The numbers of a round in one view: all groups, and a window of the rows of one of them, or of all."""

    column: str | None
    region: str
    groups: list[NumberGroup]
    total: int
    rows: list[NumberOut]


class TidyIn(BaseModel):
    """What is done to all numbers of a group."""

    model_config = ConfigDict(extra="forbid")

    group: str
    action: Action
    country: str = Field(default="", max_length=2)


class ColumnIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: str
    role: Role | None = None
    reading: Order | None = None
    format: str | None = Field(default=None, max_length=100)
    fallback: str | None = Field(default=None, max_length=1_000)


class SentIn(BaseModel):
    """Whether the rows that a column says were sent are left out; without, the column is something else."""

    name: str = Field(max_length=200)
    leave_out: bool


class MatchIn(BaseModel):
    """`name` is what the set-up calls the column, `column` what it is called here."""

    model_config = ConfigDict(extra="forbid")

    name: str
    column: str


class ForgetIn(BaseModel):
    """A column that is not there, of which the set-up is no longer to speak."""

    model_config = ConfigDict(extra="forbid")

    name: str


class DoubledIn(BaseModel):
    """Which of two columns called `name` counts: the one that the set-up computes, or the sheet's."""

    model_config = ConfigDict(extra="forbid")

    name: str
    computed: bool


class ComputedIn(BaseModel):
    """A computed column: new, or in the place of the one that `was` called so."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(max_length=200)
    was: str | None = Field(default=None, max_length=200)
    formula: str | None = Field(default=None, max_length=MOST_CHARACTERS)
    template: str | None = Field(default=None, max_length=MOST_CHARACTERS)
    format: str | None = Field(default=None, max_length=100)
    fallback: str | None = Field(default=None, max_length=1_000)


class TryIn(ComputedIn):
    """The same, only to be looked at; `row` counts from 1."""

    name: str = Field(default="", max_length=200)
    row: int = Field(ge=1)


class Tried(BaseModel):
    """What a formula or a template comes to in one row."""

    problem: PlaceOut | None
    shown: str | None
    explained: str | None
    trouble: str | None


class WrongRow(BaseModel):
    row: int
    label: str
    why: str


class TriedOnAll(BaseModel):
    """How many rows the formula has no value in, and the first of them."""

    wrong: int
    first: WrongRow | None
    blank: int


class StartingPointOut(BaseModel):
    """A ready-made formula over this round's columns, to be changed."""

    key: str
    label: str
    about: str
    column: str
    formula: str
    format: str


class ExampleOut(BaseModel):
    """A formula and what it comes to, written as a formula, too."""

    formula: str
    value: str


class FunctionOut(BaseModel):
    """A function of the formula language, as the help has it."""

    name: str
    group: str
    shape: str
    doc: str
    examples: list[ExampleOut]
