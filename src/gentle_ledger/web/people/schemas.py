"""What the browser gets and sends about people."""

from datetime import date, datetime

from pydantic import BaseModel, ConfigDict, Field


class AskedOut(BaseModel):
    """Somebody who asked for no more texts."""

    id: int
    number: str
    on: date
    how: str
    noted_at: datetime


class AskedIn(BaseModel):
    """The same as it is noted by hand; without a country code a number is one of the program's own country."""

    model_config = ConfigDict(extra="forbid")

    number: str = Field(min_length=1, max_length=100)
    on: date
    how: str = Field(default="", max_length=200)


class AskedNoted(BaseModel):
    """The entry, and how many texts that were still to go are left out because of it."""

    entry: AskedOut
    left_out: int
