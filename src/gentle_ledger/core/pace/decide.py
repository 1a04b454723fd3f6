"""How fast texts leave: when the next may go, and when the last one will."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from itertools import islice

SHORTEST_GAP = 0.1
LONGEST_GAP = 3600.0
SHORTEST_LOOK = 1.0
LONGEST_LOOK = 300.0
_JITTER = 0.2


class Why(StrEnum):
    """Why the next text waits, in the words the clerk reads."""

    GAP = "the pace"
    CARRIER = "the carrier is away"
    NOT_YET = "the text is not to leave yet"
    SETTLING = "the carrier is asked what became of a first try"
    PAUSED = "the round is paused"


@dataclass(frozen=True, slots=True)
class Pace:
    """One text every `every` seconds, give or take `give_or_take` seconds.

    Carriers and recipients' networks dislike bursts that are as regular as a machine; common practice, no source.
    """

    every: float
    give_or_take: float = 0.0

    def gap(self, draw: float) -> float:
        """The gap in seconds for a draw from -1 to 1: never below the least the sentence allows."""
        return max(SHORTEST_GAP, self.every + self.give_or_take * min(1.0, max(-1.0, draw)))


@dataclass(frozen=True, slots=True)
class Now:
    """The present moment by both clocks.

    Attributes:
        forward: seconds of a clock that only runs forward; gaps and waits are counted by it.
        civil: the moment with its zone, as hours and days are told by.
    """

    forward: float
    civil: datetime


@dataclass(frozen=True, slots=True)
class LineState:
    """What the pace must know of a line. Times are seconds of the clock that only runs forward.

    `last_at` is when the last text was handed over, or when this process began if texts may have left before that:
    nobody can say how long a stopped process was away, so a restart waits one full gap. `draw` is the number drawn for
    the present gap. `not_before` is when the carrier lets us come again.
    """

    last_at: float | None = None
    draw: float = 0.0
    not_before: float | None = None


@dataclass(frozen=True, slots=True)
class RoundState:
    """What the pace must know of a round: its own pace, and whether somebody paused it."""

    pace: Pace
    paused: bool = False


@dataclass(frozen=True, slots=True)
class RowState:
    """What the pace must know of the text itself: the moment before which it is not to leave, if there is one."""

    not_before: datetime | None = None


ANY_ROW = RowState()
"""A text that may leave whenever its round and its line let it."""


@dataclass(frozen=True, slots=True)
class Send:
    """The next text may leave now."""


@dataclass(frozen=True, slots=True)
class Wait:
    """Not yet. `until` is None when only a person ends the wait."""

    until: float | None
    why: Why


def decide(line: LineState, round_: RoundState, row: RowState, now: Now) -> Send | Wait:
    """May this text of this round leave by this line now?

    The waits, in this order: the round is paused (until a person says go on); the text is not to leave yet; the carrier
    is away, or asked us to wait; the gap since the last hand-over is not over. The gap counts from the last hand-over
    whatever happened since: a pause does not shorten it. A clock that went back waits the gap out again from there.
    `until` is in seconds of the clock that only runs forward, also where a wait is told by the civil one.
    """
    if round_.paused:
        return Wait(None, Why.PAUSED)
    if row.not_before is not None and now.civil < row.not_before:
        return Wait(now.forward + (row.not_before - now.civil).total_seconds(), Why.NOT_YET)
    if line.not_before is not None and now.forward < line.not_before:
        return Wait(line.not_before, Why.CARRIER)
    if line.last_at is None:
        return Send()
    until = line.last_at + round_.pace.gap(line.draw)
    return Wait(until, Why.GAP) if now.forward < until else Send()


def departures(line: LineState, round_: RoundState, now: Now) -> Iterator[float]:
    """When the round's next texts leave, in seconds from now: `decide` run ahead, the draws coming out even.

    Ends where only a person ends a wait.
    """
    passed = 0.0
    while True:
        then = Now(now.forward + passed, now.civil + timedelta(seconds=passed))
        decision = decide(line, round_, ANY_ROW, then)
        if isinstance(decision, Send):
            yield passed
            line = LineState(last_at=then.forward)
        elif decision.until is None:
            return
        else:
            passed = decision.until - now.forward


def last_leaves(line: LineState, round_: RoundState, texts: int, now: Now) -> datetime | None:
    """When the last of so many texts leaves; None where only a person can say. The first of them may be the only one.

    What makes the first texts wait is told by `departures`; from then on one leaves with each gap.
    """
    leaving = list(islice(departures(line, round_, now), min(texts, 2)))
    if not texts:
        return now.civil
    if len(leaving) < min(texts, 2):
        return None
    steady = leaving[-1] - leaving[0]
    return now.civil + timedelta(seconds=leaving[0] + steady * (texts - 1))


def next_look(failures: int, draw: float) -> float:
    """Seconds until a carrier that failed `failures` times in a row is looked at again, for a draw from -1 to 1.

    Doubled each time from 1 s to 5 min, give or take a fifth, so that not everybody who waits for one carrier comes
    back in the same moment. Common practice, no source.
    """
    doubled = SHORTEST_LOOK * 2.0 ** min(max(0, failures - 1), 30)
    jittered = min(LONGEST_LOOK, doubled) * (1.0 + _JITTER * min(1.0, max(-1.0, draw)))
    return min(LONGEST_LOOK, max(SHORTEST_LOOK, jittered))


def lasting(seconds: float) -> str:
    """A length of time as a clerk says it: "about 9 minutes", "2 h 45 min"."""
    if seconds < 60:
        return f"{max(1, round(seconds))} s"
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"{minutes} min"
    hours, minutes = divmod(minutes, 60)
    if hours < 48:
        return f"{hours} h {minutes:02} min"
    days, hours = divmod(round(seconds / 3600), 24)
    return f"{days} days {hours} h"
