from datetime import datetime

from pydantic import BaseModel


class LineHealth(BaseModel):
    """A line of rounds that are going, or the one in use, by its identity.

    `sender` says whether a process sends by it, `heard` how many seconds ago that said so; null where none ever did.
    `trouble` is what keeps it, or its carrier, from the work, and since when; "" and null when nothing does. `going`
    rounds wait for it.
    """

    line: str
    in_use: bool
    sender: bool
    heard: float | None
    trouble: str
    since: datetime | None
    going: int


class HealthOut(BaseModel):
    """How the program is. `well` is false where anything needs somebody; `said` has all of it ready to read.

    `writable` says whether the ledger can be written now, and `trouble` why not.
    """

    well: bool
    said: list[str]
    version: str
    commit: str
    ledger: str
    writable: bool
    trouble: str
    lines: list[LineHealth]
    last_copy: datetime | None
    copy_trouble: str
