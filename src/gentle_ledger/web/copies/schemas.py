"""What the browser gets of copies."""

from datetime import datetime

from pydantic import BaseModel, Field


class CopyOut(BaseModel):
    name: str
    at: datetime
    size: int = Field(description="In bytes.")


class CopiesOut(BaseModel):
    ledger: str = Field(description="Where the ledger lies.")
    others: list[str] = Field(
        description="Where others lie that this user opened, while this one has no round: it may be the wrong one."
    )
    folder: str = Field(description="Where the copies lie.")
    keep: int = Field(description="How many are kept, one a day; 0 where none is made by itself.")
    trouble: str = Field(description="Why the last one could not be made; blank where it could.")
    copies: list[CopyOut]
