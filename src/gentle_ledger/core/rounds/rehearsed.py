"""What came of a rehearsal so far: plain data, for whoever shows it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.rounds.marks import Mark

FASTER = 100
"""How many times faster than the pace a rehearsal runs."""


class RehearsalStage(StrEnum):
    """Where a rehearsal stands. Paused is the program's own pause, as a real round would have made it."""

    RUNNING = "running"
    STOPPED = "stopped"
    PAUSED = "paused"
    FINISHED = "finished"


@dataclass(frozen=True, slots=True)
class RehearsedText:
    """A text that was handed to the stand-in: its row (from 1), what became of it, and when by the round's pace."""

    row: RowNumber
    label: str
    number: str
    mark: Mark
    reason: str
    at: datetime
    text: str


@dataclass(frozen=True, slots=True)
class Rehearsed:
    """A whole picture of a rehearsal.

    Attributes:
        stage: where it stands.
        began_at: the real moment at which it began.
        seal: that of the texts that are rehearsed.
        marks: those of the texts, in the sheet's order.
        texts: how many texts have each mark.
        latest: the texts that were handed over last, the last first.
        not_taken: the first of those that failed or are unsure.
        lasted: seconds from its beginning until now, or until its end, by its own hundredfold clock.
        note: why it paused, or "".
    """

    stage: RehearsalStage
    began_at: datetime
    seal: str
    marks: Sequence[Mark]
    texts: dict[Mark, int]
    latest: Sequence[RehearsedText]
    not_taken: Sequence[RehearsedText]
    lasted: float
    note: str

    @property
    def outcome(self) -> str:
        """What came of it, in a sentence without its full stop."""
        sent, failed, unsure = (self.texts.get(mark, 0) for mark in (Mark.SENT, Mark.FAILED, Mark.UNSURE))
        to_go = self.texts.get(Mark.TO_GO, 0) + self.texts.get(Mark.GOING, 0)
        whole = sent + failed + unsure + to_go
        rest = [f"{n:,} {word}" for n, word in ((failed, "failed"), (unsure, "unsure"), (to_go, "not reached")) if n]
        said = [f"{sent:,} of {count(whole, 'text')} taken", *rest]
        return listed(said)
