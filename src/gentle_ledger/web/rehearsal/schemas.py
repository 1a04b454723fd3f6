"""What the browser gets about rehearsals."""

from datetime import datetime

from pydantic import BaseModel, Field

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.rehearsed import RehearsalStage
from gentle_ledger.web.schemas import Counts


class RehearsedTextOut(BaseModel):
    """A text that was handed to the stand-in; `at` is by the pace of the round, not by the clock."""

    row: RowNumber
    label: str
    number: str
    mark: Mark
    reason: str
    at: datetime
    text: str


class RehearsedOut(BaseModel):
    """A rehearsal on screen. `strokes` and `texts` are as those of a tally."""

    stage: RehearsalStage
    began_at: datetime
    texts: list[Counts]
    strokes: str
    texts_a_stroke: int
    outcome: str
    lasted: str = Field(description="How long it took so far by the round's own pace, ready to read.")
    latest: list[RehearsedTextOut] = Field(description="The texts that were handed over last, the last first.")
    not_taken: list[RehearsedTextOut] = Field(description="The first of the texts that failed or are unsure.")
    note: str = Field(description="Why it paused by itself; blank where it did not.")


class RehearsalOut(BaseModel):
    """The rehearsals of a round: the one on screen, and what is kept of the last one."""

    title: str
    ready: int = Field(description="How many texts are ready now.")
    lasting: str = Field(description="How long they take at the pace, ready to read.")
    faster: int
    rehearsal: RehearsedOut | None
    kept: str | None = Field(description="When it was rehearsed last, what came of it, and whether it changed since.")
    changed: bool = Field(description="Whether texts, numbers or pace are others than at the last rehearsal.")
