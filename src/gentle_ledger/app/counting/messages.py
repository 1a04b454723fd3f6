"""What goes to and from a counting process: a `Request` or an `End` to it, any number of `HowFar` and an `Answer` back.

They are in a module of their own because the process's own module has another name in the process itself.
"""

from dataclasses import dataclass
from datetime import datetime
from enum import Enum
from pathlib import Path
from typing import Any

from gentle_ledger.app.counting.jobs import Job


@dataclass(frozen=True, slots=True)
class Request:
    """One job on a round at one version; `office` is the zone (IANA) of who asks, `now` the time of it."""

    number: int
    path: Path
    round_id: int
    office: str
    version: int
    now: datetime
    job: Job[Any]


@dataclass(frozen=True, slots=True)
class End:
    """The job of that number need not be finished: its answer would be out of date."""

    number: int


@dataclass(frozen=True, slots=True)
class HowFar:
    """How far the job is, in percent."""

    percent: int


class Outcome(Enum):
    """What became of a job."""

    DONE = "done"
    SUPERSEDED = "superseded"
    REFUSED = "refused"
    FAILED = "failed"


@dataclass(frozen=True, slots=True)
class Answer:
    """What a job gave: its answer, None if it was superseded, what to say, or where it failed."""

    outcome: Outcome
    found: object
