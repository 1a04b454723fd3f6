"""When the next text may leave, and why not sooner: the one rule of the pace."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple
from zoneinfo import ZoneInfo

from gentle_ledger.core.pace.civil import day_begins, local, zone_named
from gentle_ledger.core.pace.hours import Hours, WhoseClocks

SHORTEST_GAP = 0.1
LONGEST_GAP = 3600.0
SHORTEST_LOOK = 1.0
LONGEST_LOOK = 300.0
MOST_SLOWED = 64.0
_JITTER = 0.2
_FASTER_AGAIN = 1.1
_NOT_SAID = float("inf")
"""When a day is over of which it was not asked."""


class Why(StrEnum):
    """What a text waits for; `why.said` has the words."""

    GAP = "gap"
    REST = "rest"
    SLOWED = "slowed"
    CAP = "cap"
    HOURS = "hours"
    MOMENT = "moment"
    START = "start"
    CARRIER = "carrier"
    SETTLING = "settling"
    PAUSED = "paused"


@dataclass(frozen=True)
class Pace:
    """How fast, when, and how many a day.

    Carriers and recipients' networks dislike bursts that are as regular as a machine, and limit a new number on its
    first days; common practice, no source.

    Attributes:
        every, give_or_take: one text every so many seconds, give or take so many.
        after, rest: after so many texts a rest of so many seconds; 0 for none.
        per_day: the most texts of a sending number on the first civil day of its use, the second, and so on; the last
            stands for all later days. () for no such cap.
        start: the instant (POSIX seconds) before which nothing leaves; None for none.
        hours: within which texts may leave; None for all hours.
        late: seconds after its own moment from which on a row is left out instead; None for never.
        office: the zone whose civil days the cap counts.
    """

    every: float
    give_or_take: float = 0.0
    after: int = 0
    rest: float = 0.0
    per_day: tuple[int, ...] = ()
    start: float | None = None
    hours: Hours | None = None
    late: float | None = None
    office: str = "UTC"

    def gap(self, draw: float) -> float:
        """The gap in seconds for a draw from -1 to 1: never below the least the sentence allows."""
        wanted = self.every + self.give_or_take * min(1.0, max(-1.0, draw)) if draw else self.every
        return wanted if wanted > SHORTEST_GAP else SHORTEST_GAP

    def cap(self, used_before: int) -> int | None:
        """The most texts on a day before which the number was in use on so many others; None for no cap."""
        return self.per_day[min(used_before, len(self.per_day) - 1)] if self.per_day else None

    def clocks(self, zones: tuple[str, ...]) -> tuple[str, ...]:
        """The zones whose clocks tell the hours of a text whose recipient can be in `zones`."""
        by_recipient = self.hours is not None and self.hours.where is WhoseClocks.RECIPIENT
        return zones if by_recipient and zones else (self.office,)

    @cached_property
    def rests(self) -> tuple[int, float] | None:
        """After how many texts there is a rest, and of how many seconds; None for no rest."""
        return (self.after, self.rest) if self.after > 0 and self.rest > 0 else None


class Now(NamedTuple):
    """The present moment by both clocks.

    Attributes:
        forward: seconds of a clock that only runs forward; gaps and waits are counted by it.
        civil: the moment as hours and days are told by, in POSIX seconds.
    """

    forward: float
    civil: float


class Use(NamedTuple):
    """How much a sending number was used, up to a civil day of the office.

    Attributes:
        ends: when that day is over, in POSIX seconds.
        of_day: the texts of that day.
        days_before: the earlier days on which there were any.
    """

    ends: float = _NOT_SAID
    of_day: int = 0
    days_before: int = 0

    def at(self, civil: float) -> "Use":
        """The same as it is at a moment: on a later day nothing was sent yet. When that day ends is left open."""
        if civil < self.ends:
            return self
        return Use(_NOT_SAID, 0, self.days_before + (self.of_day > 0))

    def counted(self, civil: float, zone: ZoneInfo) -> "Use":
        """With one text more, handed over at that moment."""
        use = self.at(civil)
        ends = use.ends if use.ends != _NOT_SAID else day_ends(civil, zone)
        return Use(ends, use.of_day + 1, use.days_before)


def day_of(civil: float, zone: ZoneInfo) -> date:
    """The civil day of an instant."""
    return local(civil, zone).date()


def day_ends(civil: float, zone: ZoneInfo) -> float:
    """When the civil day of an instant is over."""
    return day_begins(date.fromordinal(day_of(civil, zone).toordinal() + 1), zone)


class LineState(NamedTuple):
    """What the pace must know of a line. Times are seconds of the clock that only runs forward.

    Attributes:
        last_at: when the last text was handed over, or when this process began if texts may have left before that:
            nobody can say how long a stopped process was away, so a restart waits one full gap.
        draw: the number drawn for the present gap.
        in_a_row: how many texts left since the last rest.
        use: of its sending number.
        slowed: how many times as long as usual the gap is, because the carrier asked for fewer texts.
        not_before: when the carrier lets us come again.
        beside: the paces of other rounds that have a text ready for this line now. A line has one pace, the strictest
            of all: so that no round gets around another one's, and none is kept waiting by it.
    """

    last_at: float | None = None
    draw: float = 0.0
    in_a_row: int = 0
    use: Use = Use()
    slowed: float = 1.0
    not_before: float | None = None
    beside: tuple[Pace, ...] = ()


@dataclass(frozen=True, slots=True)
class RoundState:
    """What the pace must know of a round: its own pace, and whether somebody paused it."""

    pace: Pace
    paused: bool = False


class RowState(NamedTuple):
    """What the pace must know of the text itself.

    Attributes:
        zones: those that its recipient can be in, by their IANA names.
        moment: its own moment, before which it is not to leave, in POSIX seconds; None for none.
    """

    zones: tuple[str, ...] = ()
    moment: float | None = None


ANY_ROW = RowState()
"""A text that may leave whenever its round and its line let it."""


@dataclass(frozen=True, slots=True)
class Send:
    """The next text may leave now."""


class Wait(NamedTuple):
    """Not yet. `until` is None when only a person ends the wait."""

    until: float | None
    why: Why


@dataclass(frozen=True, slots=True)
class Missed:
    """Its own moment is too long over: it is to be left out."""


SEND = Send()
MISSED = Missed()


def row_waits(pace: Pace, row: RowState, civil: float) -> tuple[float | None, Why] | Missed | None:
    """What the text itself waits for at a moment, and until when (POSIX seconds); None where it may leave.

    Its own moment comes first, then the hours of all the zones that it can be in. `until` is None for hours that never
    come: only a person ends that wait.
    """
    moment = row.moment
    if moment is not None:
        if civil < moment:
            return moment, Why.MOMENT
        if pace.late is not None and civil > moment + pace.late:
            return MISSED
    if pace.hours is not None:
        window = pace.hours.window(pace.clocks(row.zones), civil)
        if window is None:
            return None, Why.HOURS
        if civil < window.opens:
            return window.opens, Why.HOURS
    return None


_JUST_AFTER = 1e-3
"""Seconds: a moment is kept with microseconds, which a float of today does not tell apart to the last."""


def misses(pace: Pace, row: RowState) -> float:
    """From when on a text has missed its own moment (POSIX seconds), see `row_waits`; infinite where it never does."""
    if pace.late is None or row.moment is None:
        return float("inf")
    return row.moment + pace.late + _JUST_AFTER


def decide(line: LineState, round_: RoundState, row: RowState, now: Now) -> Send | Wait | Missed:
    """May this text of this round leave by this line now?

    The waits, in this order: the round is paused (until a person says go on); the round has not begun; the text's own
    moment has not come, or the hours of its recipient are closed (see `row_waits`); the carrier is away, or asked us to
    wait; as many texts left today as may; the rest after so many texts, or the gap since the last hand-over, is not
    over. Of the waits for the line the longest is told. The gap counts from the last hand-over whatever happened since:
    a pause does not shorten it. A clock that went back waits the gap out again from there. `until` is in seconds of the
    clock that only runs forward, also where a wait is told by the civil one.
    """
    pace = round_.pace
    if round_.paused:
        return Wait(None, Why.PAUSED)
    if pace.start is not None and now.civil < pace.start:
        return Wait(now.forward + pace.start - now.civil, Why.START)
    own = row_waits(pace, row, now.civil)
    if own is not None:
        if isinstance(own, Missed):
            return own
        until, why = own
        return Wait(None if until is None else now.forward + until - now.civil, why)
    if line.not_before is not None and now.forward < line.not_before:
        return Wait(line.not_before, Why.CARRIER)
    capped = _cap_wait(line, pace, now) if pace.per_day or line.beside else None
    return capped or _gap_wait(line, pace, now) or SEND


def _cap_wait(line: LineState, pace: Pace, now: Now) -> Wait | None:
    use = line.use.at(now.civil)
    for each in (pace, *line.beside):
        cap = each.cap(use.days_before)
        if cap is not None and use.of_day >= cap:
            ends = use.ends if use.ends != _NOT_SAID else day_ends(now.civil, zone_named(each.office))
            return Wait(now.forward + ends - now.civil, Why.CAP)
    return None


def _gap_wait(line: LineState, pace: Pace, now: Now) -> Wait | None:
    if line.last_at is None:
        return None
    gap = pace.gap(line.draw)
    for each in line.beside:
        gap = max(gap, each.gap(line.draw))
    gap *= line.slowed
    why = Why.SLOWED if line.slowed > 1.0 else Why.GAP
    rest = _rest_of(pace, line.beside)
    if rest and line.in_a_row >= rest[0] and rest[1] > gap:
        gap, why = rest[1], Why.REST
    until = line.last_at + gap
    return Wait(until, why) if now.forward < until else None


def _rest_of(pace: Pace, beside: Sequence[Pace]) -> tuple[int, float] | None:
    """After how many texts a line rests, and for how many seconds: as soon, and as long, as any of the paces has it."""
    if not beside:
        return pace.rests
    resting = [rests for each in (pace, *beside) if (rests := each.rests)]
    return (min(after for after, _ in resting), max(rest for _, rest in resting)) if resting else None


def handed_over(line: LineState, round_: RoundState, now: Now, draw: float = 0.0) -> LineState:
    """The line once a text of that round was handed over, with the number drawn for the next gap.

    A pause as long as a rest is one. Where no pace has a rest, none is counted towards.
    """
    rest = _rest_of(round_.pace, line.beside)
    in_a_row = 0
    if rest:
        rested = line.last_at is None or now.forward - line.last_at >= rest[1]
        in_a_row = 1 if rested else line.in_a_row + 1
    use = line.use.counted(now.civil, zone_named(round_.pace.office))
    return LineState(now.forward, draw, in_a_row, use, line.slowed, line.not_before, line.beside)


def slowed_down(line: LineState) -> LineState:
    """The carrier says that texts come too fast: the gap doubles, up to `MOST_SLOWED` times the usual one."""
    return line._replace(slowed=min(MOST_SLOWED, line.slowed * 2.0))


def sped_up(line: LineState) -> LineState:
    """The carrier took a text: a gap that had grown shrinks again, little by little."""
    if line.slowed == 1.0:
        return line
    slowed = line.slowed / _FASTER_AGAIN
    return line._replace(slowed=slowed if slowed > _FASTER_AGAIN else 1.0)


def next_look(failures: int, draw: float) -> float:
    """Seconds until a carrier that failed `failures` times in a row is looked at again, for a draw from -1 to 1.

    Doubled each time from 1 s to 5 min, give or take a fifth, so that not everybody who waits for one carrier comes
    back in the same moment. Common practice, no source.
    """
    doubled = SHORTEST_LOOK * 2.0 ** min(max(0, failures - 1), 30)
    jittered = min(LONGEST_LOOK, doubled) * (1.0 + _JITTER * min(1.0, max(-1.0, draw)))
    return min(LONGEST_LOOK, max(SHORTEST_LOOK, jittered))


def now_at(forward: float, civil: datetime) -> Now:
    """A moment told by a clock that only runs forward and by civil time."""
    return Now(forward, civil.timestamp())
