"""The line that a sender sends by, as the pace sees it: its last hand-over, its use, and its carrier's absence."""

from collections.abc import Callable, Sequence
from datetime import date, datetime

from gentle_ledger.core.pace.civil import zone_named
from gentle_ledger.core.pace.decide import (
    LineState,
    Pace,
    RoundState,
    day_of,
    handed_over,
    now_at,
    slowed_down,
    sped_up,
)
from gentle_ledger.sending.absence import Absence
from gentle_ledger.sending.lines import Accepted, Line, Outcome, Refused, Silent, Unavailable, facts_of
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.database import Database
from gentle_ledger.store.lines import begin_use, line_record, note_hand_over
from gentle_ledger.store.messages import anything_handed_over
from gentle_ledger.store.statements import Statements, statements_of
from gentle_ledger.store.use import use_of


class LineInUse:
    """What the pace must know of a line, kept in the store as far as it must last.

    Args:
        database, line, clock: those of the sender.
        draw: gives a number from -1 to 1 for each gap.
        office: the zone (IANA) whose civil days are counted.

    Attributes:
        id: the number of its record in the store, once it was begun to be used.
        state: the line as it was left; see `now`.
        absence: its carrier's.
    """

    def __init__(self, database: Database, line: Line, clock: Clock, draw: Callable[[], float], office: str) -> None:
        self._database = database
        self._line = line
        self._clock = clock
        self._draw = draw
        self._office = office
        self.id = 0
        self.state = LineState(draw=draw())
        self.absence = Absence(line, clock, draw)
        self._counted_on: date | None = None
        self._handed_over_at: datetime | None = None

    def begin(self) -> None:
        """What was before this sender: nobody can say how long ago, so gaps and waits begin anew."""
        now = self._clock.monotonic()
        self._counted_on = None
        with self._database.writing() as session:
            last_at = now if anything_handed_over(session) else self.state.last_at
            record = line_record(session, facts_of(self._line))
            begin_use(record, self._clock.now())
            self.id = record.id
            self.absence.recall(statements_of(session), record)
        self.state = self.state._replace(last_at=last_at, in_a_row=record.in_a_row, slowed=record.slowed)

    def count_use(self, civil: float) -> None:
        """Counts from the record what the sending number handed over, on each new civil day of the office."""
        day = day_of(civil, zone_named(self._office))
        if day != self._counted_on:
            with self._database.reading() as session:
                self.state = self.state._replace(use=use_of(session, self._line.name, civil, self._office))
            self._counted_on = day

    def now(self, beside: Sequence[Pace]) -> LineState:
        """The line at this moment; `beside` are the paces of other rounds that have a text ready for it."""
        return self.state._replace(not_before=self.absence.until, beside=tuple(beside))

    def note(self, line: LineState, pace: Pace, began: datetime) -> None:
        """A text was handed over; it counts on the day on which that began."""
        self._handed_over_at = self._clock.now()
        now = now_at(self._clock.monotonic(), began)
        self.state = handed_over(line, RoundState(pace), now, self._draw())

    def heed(self, ledger: Statements, outcome: Outcome | None) -> None:
        """What an answer says of the carrier: that it is there or away, and whether texts come too fast for it.

        When the last text was handed over is kept as well, so that others can say when the next one leaves.
        """
        if isinstance(outcome, Unavailable):
            # What it did not take is not among those of the day.
            self._counted_on = None
            if outcome.too_fast:
                self.state = slowed_down(self.state)
        elif isinstance(outcome, Accepted):
            self.state = sped_up(self.state)
        if self._handed_over_at is not None:
            note_hand_over(ledger, self.id, self._handed_over_at, self.state)
        if isinstance(outcome, (Unavailable, Silent)) and self._line.policy.can_be_asked:
            self.absence.begin(ledger, outcome)
        elif isinstance(outcome, (Accepted, Refused)):
            self.absence.end(ledger)
