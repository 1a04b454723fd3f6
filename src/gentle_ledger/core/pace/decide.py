"""How fast texts leave: when the next may go, and when the last one will."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

SHORTEST_GAP = 0.1
LONGEST_GAP = 3600.0
SHORTEST_LOOK = 1.0
LONGEST_LOOK = 300.0
_JITTER = 0.2


class Why(StrEnum):
    """Why the next text waits, in the words the clerk reads."""

    GAP = "the pace"
    CARRIER = "the carrier is away"
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

    @property
    def shortest(self) -> float:
        return self.gap(-1.0)


@dataclass(frozen=True, slots=True)
class LineState:
    """What the pace must know of a line. Times are seconds of one clock that only runs forward.

    `last_at` is when the last text was handed over, or when this process began if texts may have left before that:
    nobody can say how long a stopped process was away, so a restart waits one full gap. `draw` is the number drawn for
    the present gap. `not_before` is when the carrier lets us come again.
    """

    last_at: float | None = None
    draw: float = 0.0
    not_before: float | None = None
    paused: bool = False


@dataclass(frozen=True, slots=True)
class Send:
    """The next text may leave now."""


@dataclass(frozen=True, slots=True)
class Wait:
    """Not yet. `until` is None when only a person ends the wait."""

    until: float | None
    why: Why


def decide(pace: Pace, state: LineState, now: float) -> Send | Wait:
    """May the next text leave at `now`?

    The waits, in this order: the round is paused (until a person says go on); the carrier is away, or asked us to
    wait; the gap since the last hand-over is not over. The gap counts from the last hand-over whatever happened since:
    a pause does not shorten it. `now` earlier than `last_at` is a clock that went back, and waits the gap out again
    from `last_at`.
    """
    if state.paused:
        return Wait(None, Why.PAUSED)
    if state.not_before is not None and now < state.not_before:
        return Wait(state.not_before, Why.CARRIER)
    if state.last_at is None:
        return Send()
    until = state.last_at + pace.gap(state.draw)
    return Wait(until, Why.GAP) if now < until else Send()


def next_look(failures: int, draw: float) -> float:
    """Seconds until a carrier that failed `failures` times in a row is looked at again, for a draw from -1 to 1.

    Doubled each time from 1 s to 5 min, give or take a fifth, so that not everybody who waits for one carrier comes
    back in the same moment. Common practice, no source.
    """
    doubled = SHORTEST_LOOK * 2.0 ** min(max(0, failures - 1), 30)
    jittered = min(LONGEST_LOOK, doubled) * (1.0 + _JITTER * min(1.0, max(-1.0, draw)))
    return min(LONGEST_LOOK, max(SHORTEST_LOOK, jittered))


def last_leaves(pace: Pace, texts: int, first: datetime) -> datetime:
    """When the last of `texts` leaves if the first leaves at `first` and draws come out even."""
    return first + timedelta(seconds=pace.every * max(0, texts - 1))


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
