"""What the browser gets and sends about columns and the numbers in one of them."""

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.app.commands.columns import Formula
from gentle_ledger.core.cells.fields import Where
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.columns.tidy import Action
from gentle_ledger.core.recipe.part import MOST_CHARACTERS
from gentle_ledger.web.schemas import NextOut, PlaceOut


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
    recognised_by: str = Field(description="What tells that it is for this.")
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


class NumberColumnOut(BaseModel):
    """A column that may have the numbers that texts go to, with the first of them."""

    column: str
    example: str


class CountryAsked(BaseModel):
    """A country of which some numbers are, and nobody has said that they are right; with the first such row."""

    region: str
    country: str
    rows: int
    first: RowNumber


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


class BatchAction(BaseModel):
    action: Action
    label: str


class NumberBatch(BaseModel):
    key: str
    sentence: str
    rows: int
    wrong: bool
    actions: list[BatchAction]


class NumberOut(BaseModel):
    """A number as typed and as read; `country`, `kind` and `zone` are "" where it could not be read."""

    row: RowNumber
    label: str
    typed: str
    e164: str
    country: str
    kind: str
    zone: str
    problem: str


class NumbersOut(BaseModel):
    """The numbers of a round in one view: all batches, and a window of the rows of one of them, or of all."""

    column: str | None
    region: str
    batches: list[NumberBatch]
    total: int
    rows: list[NumberOut]


class TidyIn(BaseModel):
    """What is done to a whole batch of numbers; `country` (ISO 3166-1) is the one they are read as numbers of."""

    model_config = ConfigDict(extra="forbid")

    batch: str
    action: Action
    country: str = Field(default="", max_length=2)


class TryIn(Formula):
    """The same, only to be looked at; `row` counts from 1."""

    name: str = Field(default="", max_length=200)
    row: RowNumber = Field(ge=1)

    def alone(self) -> Formula:
        """What is tried, without where."""
        return Formula(**{key: getattr(self, key) for key in Formula.model_fields})


class FieldsIn(BaseModel):
    """A text that is being written, and what it is."""

    model_config = ConfigDict(extra="forbid")

    text: str = Field(max_length=MOST_CHARACTERS)
    where: Where


class Tried(BaseModel):
    """What a formula or a template comes to in one row."""

    problem: PlaceOut | None
    shown: str | None
    explained: str | None
    trouble: str | None


class ConditionIn(BaseModel):
    """A condition that is being written."""

    model_config = ConfigDict(extra="forbid")

    when: str = Field(max_length=MOST_CHARACTERS)


class ConditionTried(BaseModel):
    """In how many rows a condition is true."""

    problem: PlaceOut | None
    rows: int
    first: NextOut | None = Field(description="The first of these rows.")
    unsure: int = Field(description="In how many it cannot be said.")
    why: str = Field(description="Why not, in the first of these.")
    reason: str = Field(description="The condition in words, where it can be put simply; else blank.")


class WrongRow(BaseModel):
    row: RowNumber
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
