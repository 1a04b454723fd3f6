"""What the browser gets and sends about rows."""

from datetime import datetime

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.app.commands.rows import MOST_REASON
from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.checks.model import Mend
from gentle_ledger.core.rounds.marks import Mark, PlanMark
from gentle_ledger.core.sheets.model import MAX_ROWS

MOST_PASTED = 8_000_000
"""Characters that can be pasted at once."""


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
    planned: str = Field(default="", description="When its text leaves by the forecast, where that was asked for.")
    releasable: bool = Field(description="Whether the clerk may release the row from what holds it.")
    locked: bool = Field(default=False, description="Whether it was handed over, so that nothing of it can be changed.")
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
    plain_parts: int = Field(description="Parts that the text would take without special characters.")


class HistoryOut(BaseModel):
    at: datetime
    mark: PlanMark | Mark
    reason: str
    reference: str | None


class RowFinding(BaseModel):
    reason: str
    holds: bool
    check: str = Field(description="The check that it is of; blank once sending has started.")
    do: str = Field(description="What the clerk can do about it; blank once nothing can be done.")
    mends: list[Mend] = Field(description="What can be done about it at one press.")


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
    wording: str | None = Field(description="The wording that it is made from, where the round has several.")


class Standing(BaseModel):
    """Where a row stands: its mark, what the checks found, and, once sending started, what happened to it."""

    row: RowNumber
    mark: PlanMark | Mark
    releasable: bool
    released: str | None = Field(default=None, description="Why the clerk let it go; null where nothing was let go.")
    findings: list[RowFinding]
    history: list[HistoryOut]


class KeepIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    left_out: bool | None = None
    released: bool | None = None
    reason: str | None = Field(default=None, max_length=MOST_REASON, description="Why it is released, in words.")


class MendIn(BaseModel):
    """A cell's new content; blank for none."""

    model_config = ConfigDict(extra="forbid")

    column: str
    typed: str = Field(max_length=MAX_CELL_CHARACTERS)
    was: str | None = Field(
        default=None, description="What stood there as it was shown; what stands there by now otherwise is not covered."
    )


class PasteIn(BaseModel):
    """A block of cells and where it goes; see `core.sheets.block.Place`."""

    model_config = ConfigDict(extra="forbid")

    text: str = Field(min_length=1, max_length=MOST_PASTED)
    rows: list[RowNumber] = Field(min_length=1, max_length=MAX_ROWS)
    columns: list[str] = Field(min_length=1, max_length=10_000)
    chosen: int = Field(default=1, ge=1)
    below: bool = Field(default=False, description="Whether it becomes new rows below the last one.")
    may_add: bool = Field(default=True, description="Whether rows may be added where the list ends.")
    seen: int | None = Field(default=None, description="The version of the round in which it was shown what it covers.")


class CoveredCell(BaseModel):
    """A cell that would be covered."""

    row: RowNumber
    column: str
    before: str
    after: str


class PasteOut(BaseModel):
    """What pasting would do."""

    version: int
    cells: int
    added: int = Field(description="Rows that are added.")
    named: bool = Field(description="Whether the block's first line has the names of the columns, and is not pasted.")
    covers: int
    covered: list[CoveredCell] = Field(description="The first of the cells that are covered.")
    columns: list[str]
    lines: list[list[str]] = Field(description="The first rows of the block, under these columns.")
