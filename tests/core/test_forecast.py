"""The pace in full: rests, caps, hours, moments and order; the forecast, which is the same rule run ahead."""

from collections import Counter
from dataclasses import replace
from datetime import datetime
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gentle_ledger.core.pace.decide import (
    LineState,
    Missed,
    Now,
    Pace,
    RoundState,
    RowState,
    Send,
    Use,
    Wait,
    Why,
    day_ends,
    decide,
    handed_over,
    now_at,
    row_waits,
    slowed_down,
    sped_up,
)
from gentle_ledger.core.pace.forecast import RoundAhead, forecast
from gentle_ledger.core.pace.hours import Hours, WhoseClocks
from gentle_ledger.core.pace.waiting import Waiting

OFFICE = "America/Halifax"
HALIFAX, TORONTO = ("America/Halifax",), ("America/Toronto",)
NEWFOUNDLAND = ("America/Halifax", "America/St_Johns")
WORKING = Hours(9 * 60, 17 * 60, frozenset(range(5)), WhoseClocks.RECIPIENT, "CA-NS")
GAP = Pace(12, 4, office=OFFICE)


def instant(text):
    return datetime.fromisoformat(text).timestamp()


def clock(at, zone=OFFICE):
    return f"{datetime.fromtimestamp(at, ZoneInfo(zone)):%a %d %H:%M:%S}"


def run(pace, rows, at="2026-11-26T16:00:00-04:00", line=None):
    return forecast(line or LineState(), [RoundAhead(pace, rows)], now_at(0.0, datetime.fromisoformat(at)))[0]


def told(pace, rows, at="2026-11-26T16:00:00-04:00", line=None):
    """When each row leaves by the clocks of Halifax, and why not sooner."""
    planned = run(pace, rows, at, line).planned
    return [(clock(each.at) if each.at is not None else None, each.why and str(each.why)) for each in planned]


def at_moment(text, zones=HALIFAX):
    return RowState(zones, instant(text))


ANY = RowState(HALIFAX)
PLANS = [
    # pace, rows, when Send is pressed, what is planned, why this case
    (GAP, [ANY] * 2, "2026-11-26T16:00:00-04:00", [("Thu 26 16:00:00", None), ("Thu 26 16:00:12", "gap")], "the gap"),
    (
        replace(GAP, after=2, rest=300.0),
        [ANY] * 4,
        "2026-11-26T16:00:00-04:00",
        [
            ("Thu 26 16:00:00", None),
            ("Thu 26 16:00:12", "gap"),
            ("Thu 26 16:05:12", "rest"),
            ("Thu 26 16:05:24", "rest"),
        ],
        "after two texts a rest, which counts from the last of them",
    ),
    (
        replace(GAP, per_day=(2, 3)),
        [ANY] * 6,
        "2026-11-26T23:59:00-04:00",
        [
            ("Thu 26 23:59:00", None),
            ("Thu 26 23:59:12", "gap"),
            ("Fri 27 00:00:00", "cap"),
            ("Fri 27 00:00:12", "cap"),
            ("Fri 27 00:00:24", "cap"),
            ("Sat 28 00:00:00", "cap"),
        ],
        "two on the first day of the number, three on each later one",
    ),
    (
        replace(GAP, per_day=(1, 2)),
        [ANY] * 4,
        "2026-11-26T16:00:00-04:00",
        [
            ("Thu 26 16:00:00", None),
            ("Fri 27 00:00:00", "cap"),
            ("Fri 27 00:00:12", "cap"),
            ("Sat 28 00:00:00", "cap"),
        ],
        "a day with one text is a day of use",
    ),
    (
        replace(GAP, hours=WORKING),
        [RowState(TORONTO), RowState(NEWFOUNDLAND), ANY],
        "2026-11-26T16:59:50-04:00",
        [("Thu 26 16:59:50", None), ("Fri 27 09:00:00", "hours"), ("Fri 27 09:00:12", "hours")],
        "it is 15:59 in Toronto, and half past five in St. John's; a row that waits holds up none behind it",
    ),
    (
        replace(GAP, hours=WORKING),
        [ANY] * 2,
        "2026-11-27T16:59:48-04:00",
        [("Fri 27 16:59:48", None), ("Mon 30 09:00:00", "hours")],
        "five o'clock is outside, and no text leaves on a Saturday",
    ),
    (
        replace(GAP, hours=WORKING),
        [ANY],
        "2026-12-24T18:00:00-04:00",
        [("Mon 28 09:00:00", "hours")],
        "Christmas Day is kept in Nova Scotia",
    ),
    (
        replace(GAP, hours=replace(WORKING, holidays="")),
        [ANY],
        "2026-12-24T18:00:00-04:00",
        [("Fri 25 09:00:00", "hours")],
        "and is not where no holidays are",
    ),
    (
        replace(GAP, hours=replace(WORKING, where=WhoseClocks.OFFICE)),
        [RowState(TORONTO)],
        "2026-11-27T07:00:00-04:00",
        [("Fri 27 09:00:00", "hours")],
        "by the clocks of the office",
    ),
    (
        replace(GAP, start=instant("2026-12-01T09:00:00-04:00")),
        [ANY, at_moment("2026-11-30T09:00:00-04:00")],
        "2026-11-26T16:00:00-04:00",
        [("Tue 01 09:00:00", "start"), ("Tue 01 09:00:12", "start")],
        "nothing leaves before the round begins, not even a row whose moment came",
    ),
    (
        GAP,
        [at_moment("2026-11-26T18:00:00-04:00"), ANY, ANY],
        "2026-11-26T16:00:00-04:00",
        [("Thu 26 18:00:00", "moment"), ("Thu 26 16:00:00", None), ("Thu 26 16:00:12", "gap")],
        "a row whose moment has not come holds up none behind it",
    ),
    (
        replace(GAP, hours=WORKING, late=7200.0),
        [
            at_moment("2026-11-26T14:30:00-04:00"),
            at_moment("2026-11-26T13:59:00-04:00"),
            at_moment("2026-11-28T10:00:00-04:00"),
        ],
        "2026-11-26T16:00:00-04:00",
        [("Thu 26 16:00:00", None), (None, "moment"), (None, "moment")],
        "two hours late may leave, more may not; a Saturday's moment is missed by Monday",
    ),
    (
        replace(GAP, hours=WORKING),
        [at_moment("2126-11-26T09:00:00-04:00"), ANY],
        "2026-11-26T16:00:00-04:00",
        [(None, "moment"), ("Thu 26 16:00:00", None)],
        "a moment in a hundred years, mistyped perhaps, is not looked ahead to, and is not the fault of the hours",
    ),
    (
        replace(GAP, start=instant("2126-12-01T09:00:00-04:00"), hours=WORKING),
        [ANY],
        "2026-11-26T16:00:00-04:00",
        [(None, "start")],
        "nor is a beginning in a hundred years",
    ),
]


@pytest.mark.parametrize(("pace", "rows", "at", "planned", "why"), PLANS, ids=[plan[4] for plan in PLANS])
def test_plans(pace, rows, at, planned, why):
    assert told(pace, rows, at) == planned


def test_what_was_used_before_counts():
    used = LineState(use=Use(day_ends(instant("2026-11-26T16:00:00-04:00"), ZoneInfo(OFFICE)), 1, 0))
    capped = replace(GAP, per_day=(2, 3))
    assert [when for when, _ in told(capped, [ANY] * 2, line=used)] == ["Thu 26 16:00:00", "Fri 27 00:00:00"]
    on_the_second_day = LineState(use=Use(used.use.ends, 1, 1))
    assert [when for when, _ in told(capped, [ANY] * 3, line=on_the_second_day)][-1] == "Fri 27 00:00:00"
    idle = LineState(use=Use(used.use.ends - 30 * 24 * 3600, 2, 0))
    assert [when for when, _ in told(capped, [ANY] * 4, line=idle)][2:] == ["Thu 26 16:00:24", "Fri 27 00:00:00"]


def test_a_carrier_that_asks_for_fewer_texts_slows_the_line_and_the_line_comes_back():
    line = slowed_down(slowed_down(LineState(last_at=0.0)))
    assert decide(line, RoundState(GAP), ANY, Now(12.0, 0.0)) == Wait(48.0, Why.SLOWED)
    for _ in range(20):
        line = sped_up(line)
    assert decide(line, RoundState(GAP), ANY, Now(11.0, 0.0)) == Wait(12.0, Why.GAP)
    for _ in range(20):
        line = slowed_down(line)
    assert line.slowed == 64


def test_a_line_that_two_rounds_share_goes_by_the_stricter_of_each_thing_and_takes_turns():
    calm, quick = Pace(30, office=OFFICE), Pace(3, after=2, rest=100.0, per_day=(5,), office=OFFICE)
    first, second = forecast(LineState(), [RoundAhead(calm, [ANY] * 4), RoundAhead(quick, [ANY] * 4)], Now(0.0, 0.0))
    left = sorted([(each.at, "calm") for each in first.planned] + [(each.at, "quick") for each in second.planned])
    assert [who for _, who in left] == ["calm", "quick"] * 4
    assert [at for at, _ in left[:5]] == [0, 30, 130, 160, 260], "a gap of 30 s, and after two a rest"
    day = {datetime.fromtimestamp(at, ZoneInfo(OFFICE)).date() for at, _ in left}
    assert len(day) == 2, "and five a day"


def test_waits_are_told_in_their_order():
    pace = Pace(10, after=1, rest=50.0, per_day=(1,), start=1000.0, hours=Hours(0, 1), late=5.0, office="UTC")
    line = LineState(last_at=0.0, in_a_row=1, not_before=30.0, use=Use(86400.0, 1, 0))
    row = RowState(("UTC",), 2000.0)
    look = lambda civil, **line_changes: decide(line._replace(**line_changes), RoundState(pace), row, Now(20.0, civil))  # noqa: E731
    assert decide(line, RoundState(pace, paused=True), row, Now(20.0, 0.0)) == Wait(None, Why.PAUSED)
    assert look(500.0) == Wait(520.0, Why.START)
    assert look(1500.0) == Wait(520.0, Why.MOMENT)
    assert look(2004.0) == Wait(20.0 + 86400 - 2004, Why.HOURS)
    assert isinstance(look(2006.0), Missed)
    row = RowState(("UTC",), 86410.0)
    assert look(86410.0) == Wait(30.0, Why.CARRIER)
    assert look(86410.0, not_before=None) == Wait(50.0, Why.REST), "yesterday's texts are not those of today"
    assert look(86410.0, not_before=None, use=Use(2 * 86400.0, 1, 0)) == Wait(20.0 + 86390, Why.CAP)
    assert look(86410.0, not_before=None, in_a_row=0) == Send()


def test_the_same_hours_stand_behind_the_queue_and_the_rule():
    rows = [RowState(zones) for zones in (TORONTO, HALIFAX, NEWFOUNDLAND)] * 3
    pace = replace(GAP, hours=WORKING)
    for minutes in range(0, 5 * 24 * 60, 7):
        at = instant("2026-10-30T00:00:00-03:00") + minutes * 60
        free = [place for place, row in enumerate(rows) if row_waits(pace, row, at) is None]
        assert Waiting(pace, rows).first(at) == (free[0] if free else None)


# --- whole histories -------------------------------------------------------------------------------------------------

_ZONES = [HALIFAX, TORONTO, NEWFOUNDLAND, ("Australia/Lord_Howe",)]
_paces = st.builds(
    lambda every, jitter, after, cap, hours, days: Pace(
        every,
        min(jitter, every),
        after,
        120.0 if after else 0.0,
        cap,
        None,
        Hours(*hours, days) if hours else None,
        office=OFFICE,
    ),
    st.sampled_from([1.0, 12.0, 90.0]),
    st.sampled_from([0.0, 4.0]),
    st.sampled_from([0, 2, 5]),
    st.sampled_from([(), (3,), (2, 4), (1, 2, 6)]),
    st.sampled_from([None, (9 * 60, 17 * 60), (60, 150), (0, 24 * 60)]),
    st.sampled_from([frozenset(range(7)), frozenset(range(5))]),
)
_steps = st.lists(
    st.sampled_from(["look", "look", "look", "pause", "go on", "restart", "retry", "slow", "took"])
    | st.sampled_from([0.5, 11.9, 12.0, 60.0, 1800.0, 4 * 3600.0])
    | st.tuples(st.just("clock"), st.sampled_from([-86400.0, -3600.0, 3600.0, 30 * 3600.0])),
    min_size=150,
    max_size=320,
)


class Office:
    """A sender without a store: it looks at all texts of two rounds anew each time, as one does that was restarted."""

    def __init__(self, paces, rows, start, rng):
        self.paces, self.rows, self.rng = paces, rows, rng
        self.open = [list(range(len(each))) for each in rows]
        self.paused, self.turns = [False, False], [0, 0]
        self.passed, self.civil, self.forward_from = 0.0, start, 0.0
        self.line, self.log, self.days = LineState(), [], Counter()

    def ready(self, which):
        if self.paused[which]:
            return None
        pace, rows = self.paces[which], self.rows[which]
        return next((n for n in self.open[which] if row_waits(pace, rows[n], self.civil) is None), None)

    def use(self):
        """Counted from the record by civil day, as it was told when each text left."""
        zone = ZoneInfo(OFFICE)
        today = datetime.fromtimestamp(self.civil, zone).date()
        return Use(day_ends(self.civil, zone), self.days[today], sum(day < today for day in self.days))

    def capped(self):
        use = self.use()
        return any(cap is not None and use.of_day >= cap for cap in (pace.cap(use.days_before) for pace in self.paces))

    def act(self):
        ready = [which for which in (0, 1) if self.ready(which) is not None]
        if not ready:
            return
        which = min(ready, key=lambda each: self.turns[each])
        place = self.ready(which)
        line = self.line._replace(use=self.use(), beside=tuple(self.paces[other] for other in ready if other != which))
        now, state = Now(self.passed - self.forward_from, self.civil), RoundState(self.paces[which])
        if decide(line, state, self.rows[which][place], now) == Send():
            self.line = handed_over(line, state, now, self.rng.uniform(-1, 1))
            self.open[which].remove(place)
            self.log.append((self.passed, self.civil, which, place))
            self.days[datetime.fromtimestamp(self.civil, ZoneInfo(OFFICE)).date()] += 1
            self.turns[which] = len(self.log)

    def does(self, step):
        if isinstance(step, float):
            self.passed, self.civil = self.passed + step, self.civil + step
        elif isinstance(step, tuple):
            self.civil += step[1]
        elif step in {"pause", "go on"}:
            self.paused[0] = step == "pause"
        elif step == "restart":
            # Its clock begins anew, and nobody can say how long it was away.
            self.forward_from = self.passed
            kept = self.line.in_a_row, self.line.slowed
            self.line = LineState(0.0 if self.log else None, self.rng.uniform(-1, 1), kept[0], slowed=kept[1])
        elif step == "retry" and self.log:
            _, _, which, place = self.log[-1]
            self.open[which] = sorted({*self.open[which], place})
        elif step in {"slow", "took"}:
            self.line = (slowed_down if step == "slow" else sped_up)(self.line)
        self.act()


def _kept(office):
    """What the record says of every promise of the pace, worked out without the rule."""
    for (before, *_), (after, _, which, _) in pairwise(office.log):
        pace = office.paces[which]
        assert after - before >= max(0.1, pace.every - pace.give_or_take) - 1e-6
    for _, civil, which, place in office.log:
        hours = office.paces[which].hours
        for zone in office.rows[which][place].zones if hours else ():
            then = datetime.fromtimestamp(civil, ZoneInfo(zone))
            assert hours.opens <= then.hour * 60 + then.minute < hours.closes
            assert then.weekday() in hours.days


@settings(max_examples=450, deadline=None)
@given(
    st.tuples(_paces, _paces), _steps, st.randoms(use_true_random=False), st.sampled_from(["2026-10-30", "2027-03-12"])
)
def test_no_history_breaks_a_promise_of_the_pace(paces, steps, rng, day):
    """Some 120,000 steps: pauses, restarts, clocks that jump, retries, two rounds, a carrier that asks for fewer."""
    rows = [[RowState(rng.choice(_ZONES)) for _ in range(12)] for _ in paces]
    office = Office(paces, rows, instant(f"{day}T12:00:00-03:00"), rng)
    for step in steps:
        before, seen = len(office.log), [office.ready(which) for which in (0, 1)]
        open_before = [list(each) for each in office.open]
        office.does(step)
        if len(office.log) > before and not isinstance(step, (float, tuple)) and step == "look":
            _, civil, which, place = office.log[-1]
            earlier = [n for n in open_before[which] if n < place]
            assert all(row_waits(paces[which], rows[which][n], civil) for n in earlier), "the order decides"
            other = 1 - which
            if seen[other] is not None and len(office.log) > 1:
                last = [which_ for _, _, which_, _ in office.log[:-1]]
                assert other in last[-1:] or which not in last, "rounds take turns"
    _kept(office)
    _caps(office)
    # And no row starves: left alone, all of them leave.
    office.paused, office.line = [False, False], office.line._replace(slowed=1.0)
    until = office.passed + 60 * 86400
    while any(office.open) and office.passed < until:
        office.does(1800.0)
        while any(office.ready(which) is not None for which in (0, 1)) and not office.capped():
            office.does(100.0)
    assert not any(office.open)
    _kept(office)


def _caps(office):
    """Every text that left under a cap was within it, by the days of use up to then."""
    zone = ZoneInfo(OFFICE)
    for n, (_, civil, which, _) in enumerate(office.log):
        per_day = office.paces[which].per_day
        if per_day:
            today = datetime.fromtimestamp(civil, zone).date()
            days = Counter(datetime.fromtimestamp(at, zone).date() for _, at, _, _ in office.log[:n])
            used_before = sum(day < today for day in days)
            assert days[today] < per_day[min(used_before, len(per_day) - 1)]


@settings(max_examples=200, deadline=None)
@given(_paces, st.randoms(use_true_random=False), st.integers(1, 40))
def test_a_forecast_keeps_what_it_promises_and_leaves_no_row_behind(pace, rng, texts):
    start = instant("2026-10-30T12:00:00-03:00")
    rows = [RowState(rng.choice(_ZONES), rng.choice([None, start + rng.uniform(-1, 4) * 86400])) for _ in range(texts)]
    planned = forecast(LineState(), [RoundAhead(pace, rows)], Now(0.0, start))[0].planned
    stepped = forecast(LineState(), [RoundAhead(pace, rows)], Now(0.0, start), step_by_step=True)[0].planned
    assert [(round(each.at, 3), each.why) for each in planned] == [(round(each.at, 3), each.why) for each in stepped]
    left = sorted((each.at, place) for place, each in enumerate(planned))
    assert all(b - a >= pace.every - 1e-6 for (a, _), (b, _) in pairwise(left))
    for at, place in left:
        assert row_waits(pace, rows[place], at) is None
        later = [other for other in range(place) if planned[other].at > at]
        assert all(row_waits(pace, rows[other], at) for other in later), "an earlier one would have gone"
    days = Counter(datetime.fromtimestamp(at, ZoneInfo(OFFICE)).date() for at, _ in left)
    for n, day in enumerate(sorted(days)):
        assert not pace.per_day or days[day] <= pace.per_day[min(n, len(pace.per_day) - 1)]
    if pace.after:
        in_a_row = 1
        for (a, _), (b, _) in pairwise(left):
            in_a_row = 1 if b - a >= pace.rest else in_a_row + 1
            assert in_a_row <= pace.after
