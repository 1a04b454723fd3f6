"""What several nouns of the interface share."""

from pydantic import BaseModel, Field

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.marks import Mark, PlanMark


class Problem(BaseModel):
    """RFC 9457 problem details; `detail` is the sentence for the clerk."""

    type: str
    title: str
    status: int
    detail: str
    kind: str
    row: RowNumber | None = None
    column: str | None = None
    theirs: str | None = None


class Counts(BaseModel):
    """How many rows have each mark, in the order they are shown."""

    mark: PlanMark | Mark
    rows: int


class FieldOut(BaseModel):
    """Where a field stands in a text, in UTF-16 units, brackets included, and which column it is."""

    start: int
    end: int
    column: str | None = Field(description="The column that it is; null where it is none, or several as in a link.")
    computed: bool
    known: bool = Field(description="Whether every name in it is a column's.")


class PlaceOut(BaseModel):
    """What is wrong from `start` to `end`, and what to do; they count UTF-16 units, as the browser does."""

    start: int
    end: int
    message: str
    remedy: str


class NextOut(BaseModel):
    row: RowNumber
    label: str
