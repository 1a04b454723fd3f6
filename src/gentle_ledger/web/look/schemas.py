"""What the browser gets and sends about the look."""

from datetime import datetime

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.beside import Beside
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.web.rows.schemas import SlipOut, Standing


class LookLineOut(BaseModel):
    """One text in the list."""

    row: RowNumber
    label: str
    says: list[str] = Field(description="Why it is odd, the weightiest first.")
    odd: bool
    seen: bool
    mark: PlanMark


class TextsToRead(BaseModel):
    """How far the texts were read, and some of them in order."""

    version: int
    title: str
    texts: int
    odd: int
    seen: int
    odd_seen: int
    next_odd: RowNumber | None = Field(description="The first odd one that nobody has looked at.")
    lines: list[LookLineOut]


class LookCell(BaseModel):
    """A cell of the row; `in_text` says that what it shows, or what it has `together`, stands in the text."""

    column: str
    shown: str
    trouble: str | None
    explained: str | None
    in_text: bool
    together: str | None = Field(description="What it is in the text of combined rows, where that is another one.")
    rows: int = Field(description="How many rows the text is of.")
    computed: bool
    typed: str = Field(description="What is written in the sheet; blank for a computed column.")


class LastTime(BaseModel):
    """The last text that went to the same number in another round."""

    title: str
    at: str
    text: str


class LookedOut(BaseModel):
    """One text as it is read."""

    version: int
    row: RowNumber
    fingerprint: str
    slip: SlipOut
    standing: Standing
    differs: list[str] = Field(description="What differs from the plain case; nothing where it is like the others.")
    cells: list[LookCell]
    last: LastTime | None


class TextLineOut(BaseModel):
    """One finished text in the table of all."""

    row: RowNumber
    label: str
    number: str
    mark: PlanMark
    wording: str
    parts: int
    text: str
    says: str


class TextsOut(BaseModel):
    """A stretch of the finished texts that have the words in them."""

    version: int
    title: str
    total: int
    lines: list[TextLineOut]


class SeenIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    fingerprint: str = Field(min_length=32, max_length=32, description="That of the text as it was shown.")
    seen: bool = True


class EarlierOut(BaseModel):
    """An earlier round to stand beside."""

    id: int
    title: str
    at: datetime
    shared: int = Field(description="How many of this round's numbers it texted.")


class BesideLine(BaseModel):
    """A row now and last time; `row` is null for one that is not in this round."""

    kind: Beside
    row: RowNumber | None
    label: str
    number: str
    before_number: str
    before_label: str
    before: str
    now: str
    percent: int | None = Field(description="By how much the amount changed, in hundredths of last time's.")
    why: str


class BesideOut(BaseModel):
    """A round beside an earlier one."""

    title: str
    other: EarlierOut | None
    choices: list[EarlierOut]
    column: str
    counts: dict[Beside, int]
    total: int
    lines: list[BesideLine]
