"""When each text of a round will leave, and why not sooner: `decide` run ahead, with every draw the mean one.

It says what a sender will do that finds the carrier there, and whose every hand-over takes no time.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from gentle_ledger.core.pace.decide import (
    SEND,
    LineState,
    Missed,
    Now,
    Pace,
    RoundState,
    RowState,
    Wait,
    Why,
    decide,
    handed_over,
    misses,
    sped_up,
)
from gentle_ledger.core.pace.waiting import Waiting

_SMALL = (Why.GAP, Why.SLOWED)
_MOST_AT_ONCE = 10_000
FARTHEST = 5 * 366 * 24 * 3600.0
"""Seconds that a forecast looks ahead; a round that lasts longer is not one."""


@dataclass(frozen=True, slots=True)
class RoundAhead:
    """A round whose texts are to leave.

    Attributes:
        pace: its own.
        rows: the texts, in the order in which they leave.
        turn: of rounds that share a line the one with the smallest has the next turn.
        paused: whether somebody paused it: then nothing of it leaves.
    """

    pace: Pace
    rows: Sequence[RowState]
    turn: int = 0
    paused: bool = False


class Planned(NamedTuple):
    """When one text leaves.

    Attributes:
        at: in POSIX seconds; None where it never does.
        why: what keeps it from leaving sooner, or at all; None where nothing does.
        missed: whether it is left out because its own moment is too long over.
    """

    at: float | None
    why: Why | None = None
    missed: bool = False


@dataclass
class Forecast:
    """A round run ahead.

    Attributes:
        planned: one entry a text, in the order they were given in.
        waited: how many seconds the round waited for what, all in all.
    """

    planned: list[Planned]
    waited: dict[Why, float] = field(default_factory=dict)

    @property
    def last(self) -> float | None:
        """When the last text leaves (POSIX seconds); None where none does."""
        return max((each.at for each in self.planned if each.at is not None), default=None)

    @property
    def held_up_by(self) -> Why | None:
        """What holds the round up most."""
        return max(self.waited, key=lambda why: self.waited[why]) if self.waited else None


_MISSED = Planned(None, Why.MOMENT, missed=True)


class _Running:
    """One round while it is run ahead."""

    def __init__(self, ahead: RoundAhead, at: float) -> None:
        self.ahead = ahead
        self.state = RoundState(ahead.pace, ahead.paused)
        self.waiting = Waiting(ahead.pace, ahead.rows)
        self.turn = float(ahead.turn)
        self.planned: list[Planned | None] = [None] * len(ahead.rows)
        self.waited: dict[Why, float] = {}
        self._began = at
        self._begins = at if ahead.pace.start is None else ahead.pace.start
        self._late = ahead.pace.late
        self._since = at
        self._held: Why | None = None
        self._most: Why | None = None
        self._free_since = at
        self._farthest = -1

    def first(self, at: float) -> int | None:
        """The first text that may leave now as far as it is for the text; those that missed their moment are noted."""
        if at < self._begins:
            return None
        place = self.waiting.first(at)
        if self._late is not None:
            while place is not None and self.waiting.missed(place, at):
                self.miss(place)
                place = self.waiting.first(at)
        return place

    def miss(self, place: int) -> None:
        self.waiting.take(place)
        self.planned[place] = _MISSED

    def comes_free(self, at: float) -> tuple[float, Why] | None:
        """When it has a text that may leave where it has none now."""
        if at < self._begins:
            return self._begins, Why.START
        return self.waiting.comes_free(at)

    def changes(self, at: float) -> float:
        """When it may have another text that may leave, or none, at the earliest."""
        place = self.first(at)
        if place is None:
            return self._begins if at < self._begins else self.waiting.changes(at)
        return min(self.waiting.changes(at), misses(self.ahead.pace, self.ahead.rows[place]))

    def held(self, why: Why) -> None:
        """The round waits for something; of what it waits for one after the other the first counts."""
        if self._held is None:
            self._held = why

    def leaves(self, place: int, at: float, small: Why) -> None:
        """The text at a place leaves."""
        self.waiting.take(place)
        held = self._held
        if at > self._since:
            reason = held or small
            self.waited[reason] = waited = self.waited.get(reason, 0.0) + at - self._since
            if self._most is None or waited > self.waited[self._most]:
                self._most = reason
        if held is not None:
            self._free_since = at
        self.planned[place] = Planned(at, self._why(place, at, held))
        self._farthest = max(self._farthest, place)
        self._since, self._held = at, None

    def goes_on(self, line: LineState, at: float, latest: float) -> tuple[float, LineState]:
        """The texts after one that has just left, as long as nothing but the gap comes between them."""
        pace = self.ahead.pace
        if self._late is not None or line.beside or line.slowed > 1.0:
            return at, line
        more = _undisturbed(line, pace, at, min(latest, self.waiting.changes(at)))
        gap, left = pace.gap(0.0), 0
        while left < more and (place := self.waiting.first(at + (left + 1) * gap)) is not None:
            left += 1
            self.leaves(place, at + left * gap, Why.GAP)
        if not left:
            return at, line
        use = line.use._replace(of_day=line.use.of_day + left)
        at += left * gap
        in_a_row = line.in_a_row + left if pace.rests else 0
        # Forward time has run as civil time has.
        last_at = (line.last_at or 0.0) + left * gap
        return at, line._replace(last_at=last_at, in_a_row=in_a_row, use=use)

    def _why(self, place: int, at: float, held: Why | None) -> Why | None:
        """What kept a text from leaving sooner.

        Its own moment, where nothing else held the round up since; else what the round has just waited for; else, for
        one that others of a later place overtook, its hours; else what the round waited for most so far.
        """
        if at <= self._began:
            return None
        moment = self.ahead.rows[place].moment
        if moment is not None and moment > self._began and moment >= self._free_since and held in {None, Why.MOMENT}:
            return Why.MOMENT
        if held is not None:
            return held
        if place < self._farthest and self.ahead.pace.hours is not None:
            return Why.HOURS
        return self._most or Why.GAP

    def done(self) -> Forecast:
        found = [each or self._never(place) for place, each in enumerate(self.planned)]
        return Forecast(found, self.waited)

    def _never(self, place: int) -> Planned:
        """A text that nothing lets leave as far as is looked ahead, and what keeps it longest."""
        row, pace = self.ahead.rows[place], self.ahead.pace
        if row.moment is not None and row.moment >= self._began + FARTHEST:
            return Planned(None, Why.MOMENT)
        if self._begins >= self._began + FARTHEST:
            return Planned(None, Why.START)
        closed = pace.hours is not None and pace.hours.window(pace.clocks(row.zones), self._began) is None
        return Planned(None, Why.HOURS if closed else self._most or Why.GAP)


def _whose_turn(running: Sequence[_Running], at: float) -> tuple[_Running | None, int, Sequence[_Running]]:
    """The round whose turn it is, the place of its text, and the others that have one too; None where none has."""
    if len(running) == 1:
        only = running[0]
        place = only.first(at)
        return (None, 0, ()) if place is None else (only, place, ())
    ready = [(each, place) for each in running if (place := each.first(at)) is not None]
    if not ready:
        return None, 0, ()
    turn, place = min(ready, key=lambda pair: pair[0].turn)
    return turn, place, [each for each, _ in ready if each is not turn]


def _until_one_comes_free(running: Sequence[_Running], at: float) -> float:
    """When the next text may leave where none may now; never where none ever may."""
    frees = [(each, found) for each in running if (found := each.comes_free(at)) is not None]
    for each, (_, why) in frees:
        each.held(why)
    return min((until for _, (until, _) in frees), default=float("inf"))


def _undisturbed(line: LineState, pace: Pace, at: float, until: float) -> int:
    """How many more texts leave with nothing but the gap between them, after one that has just left at a moment.

    That is until the first rest, the cap of the day, its end, or the moment `until` at which other texts may leave.
    """
    most = (min(until, line.use.ends) - at) / pace.gap(0.0) - 1.0
    if pace.rests is not None:
        most = min(most, pace.rests[0] - line.in_a_row)
    cap = pace.cap(line.use.days_before)
    if cap is not None:
        most = min(most, cap - line.use.of_day)
    return max(0, int(min(most, _MOST_AT_ONCE)))


def forecast(line: LineState, rounds: Sequence[RoundAhead], now: Now, *, step_by_step: bool = False) -> list[Forecast]:
    """Runs rounds ahead that share a line, one forecast each.

    Rounds take turns as the sender has them: of those that have a text which may leave, the one that has waited longest
    since its last. Where nothing but the gap comes between the texts of the only round, the rule is not asked for each
    of them, unless all is to go `step_by_step`: that changes nothing but the time it takes.
    """
    running = [_Running(ahead, now.civil) for ahead in rounds if not ahead.paused]
    last_turn = max((each.turn for each in running), default=0.0)
    # What the line says is told by the clock that only runs forward; from here on the two run alike.
    ahead_of_civil = now.forward - now.civil
    at, latest = now.civil, now.civil + FARTHEST
    undisturbed_until = latest if len(running) == 1 and not step_by_step else None
    small = Why.GAP
    while at < latest:
        turn, place, others = _whose_turn(running, at)
        if turn is None:
            at = _until_one_comes_free(running, at)
            continue
        if others or line.beside:
            line = line._replace(beside=tuple(each.ahead.pace for each in others))
        then = Now(at + ahead_of_civil, at)
        decision = decide(line, turn.state, turn.ahead.rows[place], then)
        if decision is SEND:
            turn.leaves(place, at, small)
            last_turn += 1.0
            turn.turn = last_turn
            line = sped_up(handed_over(line, turn.state, then))
            at, line = turn.goes_on(line, at, undisturbed_until or at)
        elif isinstance(decision, Wait) and decision.until is not None:
            why = decision.why
            if why in _SMALL:
                small = why
            else:
                turn.held(why)
                for each in others:
                    each.held(why)
            until = decision.until - ahead_of_civil
            # Another round may begin, close or miss its moment meanwhile: then the line is less strict, or it is the
            # other's turn.
            if len(running) > 1:
                until = min(until, *(each.changes(at) for each in running))
            at = max(until, at + _JUST_AFTER)
        elif isinstance(decision, Missed):
            turn.miss(place)
        else:
            break
    done = iter(running)
    return [next(done).done() if not ahead.paused else Forecast([_PAUSED] * len(ahead.rows)) for ahead in rounds]


_PAUSED = Planned(None, Why.PAUSED)
_JUST_AFTER = 1e-6
"""Seconds that pass at least: time goes on whatever rounding does."""
