"""What the browser gets and sends about rows."""

from datetime import datetime

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.marks import Mark, PlanMark


class CellOut(BaseModel):
    """A cell as it stands in a text; `typed` is what stood in the file where that differs."""

    shown: str
    typed: str | None = None
    trouble: str | None = None
    explained: str | None = Field(default=None, description="How a cell came about, or how it is read.")
    original: str | None = Field(default=None, description="What stood there before it was mended.")


class RowOut(BaseModel):
    number: RowNumber
    mark: PlanMark | Mark
    reason: str
    at: datetime | None
    releasable: bool = Field(description="Whether the clerk may release the row from what holds it.")
    cells: list[CellOut]


class KeptRow(RowOut):
    """A row after it was left out or released, or taken back, and the change that this was, by its number."""

    change: int | None


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
    mark: PlanMark | Mark
    reason: str
    reference: str | None


class RowFinding(BaseModel):
    reason: str
    holds: bool


class SlipOut(BaseModel):
    """A row's text as it will arrive, or as it was sent, part by part."""

    row: RowNumber
    together: list[RowNumber] = Field(description="The rows that the text is made from, when they are several.")
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

    row: RowNumber
    mark: PlanMark | Mark
    releasable: bool
    findings: list[RowFinding]
    history: list[HistoryOut]


class KeepIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    left_out: bool | None = None
    released: bool | None = None


class MendIn(BaseModel):
    """A cell's new content; blank for none."""

    model_config = ConfigDict(extra="forbid")

    column: str
    typed: str = Field(max_length=MAX_CELL_CHARACTERS)
