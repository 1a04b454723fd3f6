"""A computed round run ahead: when each row leaves, what of its pace cannot be kept, and both as lines."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.columns.own_times import OwnTimes
from gentle_ledger.core.pace.decide import LineState, Now, Pace, Why
from gentle_ledger.core.pace.forecast import Forecast, Planned, RoundAhead, forecast
from gentle_ledger.core.pace.hours import Hours, WhoseClocks
from gentle_ledger.core.pace.why import FOUR_WEEKS, iso_said, lasting, moment_said, said
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.core.rounds.turns import RowTurn, turns_of
from gentle_ledger.core.sheets.export import csv_of

COLUMNS = ("row", "mark", "number", "zone", "planned_at", "why")


_BY_DAY = Hours(8 * 60, 21 * 60)
"""From 8 a.m. to 9 p.m., local time where the recipient is: the hours that 47 CFR 64.1200(c)(1) leaves to solicitation
by telephone. A reminder may have others; at night it is hardly meant anywhere."""


@dataclass(frozen=True)
class Ahead:
    """A round run ahead.

    Attributes:
        settings, pace: its pace, as it was set and as the rules have it.
        turns: its texts, in the order in which they leave.
        forecast: when each of them does, in the same order.
        now: the moment from which it was run ahead.
    """

    settings: PaceSettings
    pace: Pace
    turns: Sequence[RowTurn]
    forecast: Forecast
    now: Now

    @property
    def by_row(self) -> dict[int, Planned]:
        """When each text leaves, by the row (from 0) that bears it."""
        return {turn.row: planned for turn, planned in zip(self.turns, self.forecast.planned, strict=True)}

    @property
    def held_up_by(self) -> str:
        """What holds the round up most, as part of a sentence; "" for nothing."""
        why = self.forecast.held_up_by
        return said(why, self.pace) if why else ""

    @property
    def doubts(self) -> list[str]:
        """What of the pace cannot be kept, or is hardly meant, a sentence each."""
        return [
            sentence
            for sentence in (self._start(), *self._moments(), self._at_night(), self._never(), self._length())
            if sentence
        ]

    def _start(self) -> str:
        start = self.pace.start
        if start is None or start >= self.now.civil:
            return ""
        when = moment_said(start, self.now.civil, self.pace.office)
        return f"The round was to begin {when}, which is over: it begins at once."

    def _moments(self) -> list[str]:
        missed = sum(planned.missed for planned in self.forecast.planned)
        column, late = self.settings.at, self.settings.late
        over = sum(turn.state.moment is not None and turn.state.moment < self.now.civil for turn in self.turns)
        found = []
        if over:
            rows = count(over, "row")
            leave = "it leaves" if over == 1 else "they leave"
            what = "at once" if late is None else f"only if it is not over by more than {late:g} min"
            found.append(f"{rows}: the moment in {column} is over already; {leave} {what}.")
        if missed:
            whose = "its moment" if missed == 1 else "their moments"
            found.append(f"{count(missed, 'text')} will be left out: more than {late or 0:g} min after {whose}.")
        if column is not None and self.settings.hours is None and any(self._at_midnight()):
            found.append(f"{column} has days without a time, and no hours are set: those texts leave from midnight on.")
        return found

    def _at_midnight(self) -> Collection[bool]:
        return [turn.state.moment is not None and not turn.timed for turn in self.turns]

    def _at_night(self) -> str:
        """Whoever sets hours by the recipients' own clocks means them; a cap alone begins its day at midnight."""
        hours = self.settings.hours
        if hours is not None and hours.where is WhoseClocks.RECIPIENT:
            return ""
        night = 0
        for turn, planned in zip(self.turns, self.forecast.planned, strict=True):
            if planned.at is not None:
                window = _BY_DAY.window(turn.state.zones or (self.pace.office,), planned.at)
                night += window is None or planned.at < window.opens
        found = count(night, "text leaves", "texts leave")
        said_so = f"{found} before 8:00 or after 21:00 where the recipient is. Hours keep a round from that."
        return said_so if night else ""

    def _never(self) -> str:
        never = sum(planned.at is None and not planned.missed for planned in self.forecast.planned)
        found = count(never, "text never leaves", "texts never leave")
        return f"{found}: nothing within five years lets {'it' if never == 1 else 'them'}." if never else ""

    def _length(self) -> str:
        last = self.forecast.last
        if last is None or last - self.now.civil < FOUR_WEEKS:
            return ""
        weeks = round((last - self.now.civil) / (7 * 24 * 3600))
        return f"The round lasts {weeks} weeks: {self.held_up_by} holds it up most."


def run_ahead(
    computed: Computed,
    office: str,
    now: Now,
    line: LineState | None = None,
    beside: Sequence[RoundAhead] = (),
    rows: Collection[int] | None = None,
    recipe: Recipe | None = None,
) -> Ahead:
    """Runs a computed round ahead.

    Args:
        computed: the round.
        office: the zone (IANA) of the office.
        now: when Send is pressed.
        line: the line as it stands; None for one that nothing was ever handed over by.
        beside: the rounds that are sending by the same line.
        rows: those (from 0) that are to go; None for all that are ready.
        recipe: the set-up, where its pace is another by now.
    """
    recipe = recipe or computed.composer.recipe
    settings = recipe.pace
    pace = settings.as_pace(office)
    turns = turns_of(computed, recipe, office, rows)
    mine = RoundAhead(pace, [turn.state for turn in turns])
    found = forecast(line or LineState(), [*beside, mine], now)[-1]
    return Ahead(settings, pace, turns, found, now)


def ahead_as_csv(computed: Computed, ahead: Ahead) -> str:
    """RFC 4180, one line a row under COLUMNS, safe for a spreadsheet; moments have the recipient's offset."""
    times = OwnTimes(computed.composer.evaluation, computed.composer.recipe)
    known = {turn.row: turn.state.zones for turn in ahead.turns}
    by_row, office = ahead.by_row, ahead.pace.office
    words = {why: said(why, ahead.pace) for why in {planned.why for planned in by_row.values()} if why}
    lines: list[tuple[object, ...]] = [COLUMNS]
    for row, mark in enumerate(computed.marks):
        number = computed.numbers[row].e164
        found = (known.get(row) or times.zones(row, number)) if number else ()
        zones = () if isinstance(found, Reason) else found
        planned = by_row.get(computed.lead(row)) if mark is PlanMark.READY else None
        at, why = "", computed.reason(row)
        if planned is not None:
            at = "" if planned.at is None else iso_said(planned.at, zones[0] if zones else office)
            why = _why(planned, words, ahead)
        lines.append((number_of_row(row), mark, number, " ".join(zones), at, why))
    return csv_of(lines)


def _why(planned: Planned, words: dict[Why, str], ahead: Ahead) -> str:
    if planned.missed:
        return f"left out: its own moment is over by more than {lasting(ahead.pace.late or 0)}"
    return words[planned.why] if planned.why else ""
