"""What the browser gets about sheets."""

from pydantic import BaseModel, Field

from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.sheets.bring_in import Part
from gentle_ledger.core.sheets.torn import Commas
from gentle_ledger.web.columns.schemas import QuestionOut
from gentle_ledger.web.schemas import NextOut


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


class CommasOut(BaseModel):
    """A column whose cells may be parted by their commas: the question, and the two ways to read one of them."""

    column: str
    ask: str
    whole: str
    apart: str
    answer: Commas | None


class GlanceOut(BaseModel):
    """How a file would be read: its first lines as they stand, and what would become of them."""

    worksheets: list[str]
    worksheet: str | None
    unseen: list[str] = Field(description="The worksheets that the workbook does not show.")
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
    commas: list[CommasOut] = Field(description="Columns whose cells may be parted by their commas.")
    doubt: str = Field(description="Why it may be no sheet of a round at all; blank for one that looks like one.")
    asks: bool = Field(description="Whether something in it is for the clerk to decide or to know first.")


class ChangedCell(BaseModel):
    row: RowNumber
    label: str
    column: str
    before: str
    after: str


class MendedCell(BaseModel):
    """A cell that was mended here, and is another one in the newer version."""

    row: RowNumber = Field(description="Its row in the newer version.")
    label: str
    column: str
    original: str = Field(description="What the file had that was brought in before.")
    here: str
    newer: str
    doubtful: bool = Field(description="Whether the newer version changed it as well: one of the two must be chosen.")


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
    changes: list[ChangedCell]
    mended: list[MendedCell]
    mended_in_all: int
    doubtful: int = Field(description="How many of the mended cells the newer version changed as well.")
    added: list[NextOut] = Field(description="Rows that were added here, and are not in the newer version.")
    added_in_all: int
    columns_new: list[str]
    columns_gone: list[str]
    reading: str


class Sample(BaseModel):
    file_name: str
    title: str
    about: str
