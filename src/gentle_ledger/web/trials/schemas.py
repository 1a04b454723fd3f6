"""What the browser gets and sends about trials."""

from datetime import datetime

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.marks import Mark


class TrialOut(BaseModel):
    """One trial, as it stands; `parts` is how many it is carried in."""

    id: int
    row: RowNumber
    number: str
    mark: Mark
    reason: str
    parts: int
    at: datetime


class TrialsOut(BaseModel):
    """The trials of a round, the newest first."""

    own: str = Field(description="The number that the last trial went to; blank before the first.")
    left: int = Field(description="How many may still follow each other today without a text of a round between them.")
    trials: list[TrialOut]


class TrialIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    row: RowNumber = Field(ge=1)
    number: str = Field(min_length=1, max_length=60, description="A mobile number of the clerk's own.")
    fingerprint: str = Field(min_length=32, max_length=32, description="That of the text as it was shown.")
    sure: bool = Field(
        default=False, description="The answer that the number is the clerk's own, where that was asked."
    )
