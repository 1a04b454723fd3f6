"""The sender keeps every promise of a pace, and does what was forecast."""

from collections import Counter
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gentle_ledger.core.pace.decide import LineState, Wait, now_at
from gentle_ledger.core.pace.forecast import RoundAhead, forecast
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import HoursSettings, PaceSettings
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.sending.lines import Unavailable
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.freezing import freeze
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import add_round, pace_of
from gentle_ledger.store.turns import states_to_go
from gentle_ledger.store.use import use_of
from tests.sending.world import CountingCarrier, HandClock, dying_after, empty_ledger

OFFICE = "America/Halifax"
AREAS = ("902-555-01", "709-555-01", "416-555-01")
WORKING = {"from": "09:00", "to": "17:00", "where": "recipient"}


_LOOK_EVERY = 1200.0
"""Seconds after which it is looked at the latest, as the sender's own loop does more often."""


class CivilClock(HandClock):
    """One whose civil time begins where it is told to, and can be put ahead or back."""

    def __init__(self, start):
        super().__init__()
        self.start, self.ahead = start, 0.0

    def now(self):
        return self.start + timedelta(seconds=self.passed + self.ahead)


class Harbour:
    """A ledger with rounds of texts to numbers of several zones, and a sender whose every draw is the mean one."""

    def __init__(self, folder, start, draw=0.0):
        self.clock = CivilClock(datetime.fromisoformat(start).astimezone(UTC))
        self.carrier = CountingCarrier(self.clock)
        self.database = empty_ledger(folder)
        self.draw = draw
        self.left = []
        hand_over = self.carrier.hand_over

        def noted(reference, number, text):
            answer = hand_over(reference, number, text)
            if not isinstance(answer, Unavailable):
                self.left.append((number, self.clock.now().timestamp()))
            return answer

        self.carrier.hand_over = noted
        self.start()

    def start(self):
        self.sender = Sender(self.database, self.carrier, self.clock, draw=lambda: self.draw, office=OFFICE)

    def begin(self, pace, areas, moments=(), dues=(), first=0):
        """Starts a round; its rows' numbers go by their areas, in the order of the sheet."""
        moments, dues = moments or [""] * len(areas), dues or ["1"] * len(areas)
        numbers = [f"{area}{first + n:02}" for n, area in enumerate(areas)]
        rows = [(f"P{first + n}", number, moments[n], dues[n]) for n, number in enumerate(numbers)]
        sheet = Sheet(("Name", "Mobile", "Remind on", "Due"), rows)
        recipe = Recipe(wording="Hello {Name}", pace=PaceSettings(**pace))
        with self.database.writing() as session:
            found = add_round(session, sheet, recipe, "a.csv", None, self.clock.now())
            computed = compute_round(sheet, recipe)
            assert set(computed.marks) == {"Ready"}, [computed.reason(row) for row in range(len(computed))]
            freeze(session, found, frozen_rows(computed, OFFICE), self.clock.now())
            return found.id

    def forecast(self, *round_ids):
        """When each number is texted by the forecast of all these rounds together, as they stand."""
        now = now_at(self.clock.monotonic(), self.clock.now())
        state = self.sender._used.state
        with self.database.reading() as session:
            line = LineState(
                state.last_at,
                state.draw,
                state.in_a_row,
                use_of(session, self.carrier.name, now.civil, OFFICE),
                state.slowed,
                self.sender._used.absence.until,
            )
            found = [session.get_one(Round, round_id) for round_id in round_ids]
            going = [states_to_go(session, round_id) for round_id in round_ids]
            numbers = {(m.round_id, m.row): m.address for m in session.query(Message)}
            rounds = [
                RoundAhead(pace_of(each, OFFICE), [state for _, state in rows], each.turn)
                for each, rows in zip(found, going, strict=True)
            ]
        planned = [run.planned for run in forecast(line, rounds, now)]
        return {
            numbers[round_id, row]: each.at
            for round_id, rows, run in zip(round_ids, going, planned, strict=True)
            for (row, _), each in zip(rows, run, strict=True)
            if each.at is not None
        }

    def run(self, until=None):
        """Lets the sender work up to a moment of civil time; it looks again just when it said it would."""
        end = datetime.fromisoformat(until) if until else None
        while end is None or self.clock.now() < end:
            decision = self.sender.act()
            if decision is None:
                return
            if isinstance(decision, Wait):
                passed = min(max(decision.until, self.clock.passed + 1e-6), self.clock.passed + _LOOK_EVERY)
                left = (end - self.clock.now()).total_seconds() if end else passed
                self.clock.passed = min(passed, self.clock.passed + max(left, 1e-6)) if end else passed

    def marks(self):
        with self.database.reading() as session:
            return Counter(message.mark for message in session.query(Message))

    def said(self):
        """By number, when it was texted by the clocks of Halifax."""
        return {number: f"{datetime.fromtimestamp(at, ZoneInfo(OFFICE)):%a %d %H:%M:%S}" for number, at in self.left}


@pytest.fixture
def harbour(tmp_path):
    return lambda start="2026-11-26T16:00:00-04:00": Harbour(tmp_path, start)


_moments = st.sampled_from(["2026-11-27", "2026-11-28 10:00", "2026-11-26 16:30", "2026-11-30 08:15", "2026-11-26"])
_paces = st.fixed_dictionaries(
    {"every": st.sampled_from([12, 90]), "give_or_take": st.just(0)},
    optional={
        "after": st.sampled_from([2, 5]),
        "per_day": st.sampled_from([[3], [2, 4]]),
        "start": st.just("2026-11-26T16:45:00"),
        "at": st.just("Remind on"),
        "order": st.sampled_from(["-Due", "shuffled"]),
        "hours": st.sampled_from(
            [WORKING, WORKING | {"days": ["Mon", "Tue", "Wed", "Thu", "Fri"], "holidays": "CA-NS"}]
        ),
    },
)


@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(_paces, min_size=1, max_size=2),
    st.lists(st.sampled_from(AREAS), min_size=1, max_size=9),
    st.lists(_moments, min_size=9, max_size=9),
    st.lists(st.integers(1, 500).map(str), min_size=9, max_size=9),
    st.booleans(),
)
def test_the_sender_does_what_was_forecast_row_by_row(tmp_path_factory, paces, areas, moments, dues, late):
    harbour = Harbour(tmp_path_factory.mktemp("harbour"), "2026-11-26T16:00:00-04:00")
    late = {"late": 120} if late else {}
    ids = [
        harbour.begin(pace | (late if "at" in pace else {}), areas, moments[: len(areas)], dues[: len(areas)], 20 * n)
        for n, pace in enumerate(paces)
    ]
    planned = harbour.forecast(*ids)
    harbour.run()
    went = dict(harbour.left)
    assert went.keys() == planned.keys()
    assert {n: round(at, 3) for n, at in went.items()} == {n: round(at, 3) for n, at in planned.items()}
    assert harbour.marks()["Sent"] == len(planned) == len(harbour.left)
    assert harbour.marks()["Left out"] == len(areas) * len(ids) - len(planned)


def test_a_round_whose_last_text_misses_its_moment_holds_the_other_up_no_longer(harbour):
    """Its cap counts for both while it has a text ready; the forecast looks again when that has missed its moment."""
    here, moment = harbour("2026-11-30T08:00:00-04:00"), "2026-11-30 08:15"
    late = {"every": 12, "give_or_take": 0, "at": "Remind on", "late": 120}
    capped = here.begin(late | {"per_day": [3]}, AREAS[:1] * 4, [moment] * 4)
    toronto = here.begin(late | {"hours": WORKING}, ["416-555-01"], [moment], first=20)
    planned = here.forecast(capped, toronto)
    here.run()
    # It is open in Toronto from 10:00 on, and the moment of the fourth is over by two hours at 10:15.
    assert here.said()["+14165550120"] == "Mon 30 10:15:00"
    assert here.marks() == {"Sent": 4, "Left out": 1}
    assert {n: round(at, 2) for n, at in planned.items()} == {n: round(at, 2) for n, at in here.left}


def test_two_days_through_an_outage_a_restart_a_night_of_changed_clocks_and_a_killed_sender(harbour):
    """Every row goes once, within its hours, at the time that was forecast; clocks go back on Sunday at two."""
    world = harbour("2026-10-30T16:40:00-03:00")
    pace = {"every": 60, "give_or_take": 0, "per_day": [14, 16], "at": "Remind on", "order": "-Due", "hours": WORKING}
    areas = [AREAS[n % 3] for n in range(40)]
    own = ["2026-10-30", "2026-10-31 12:00", "2026-11-01 09:30", "2026-10-30", "2026-11-01"]
    moments = [own[n % 5] for n in range(40)]
    number = world.begin(pace, areas, moments, [str(1000 - 7 * n % 97) for n in range(40)])
    planned = world.forecast(number)
    assert len(planned) == 40
    world.run("2026-10-31T10:00:00-03:00")
    on_friday = dict(world.left)
    assert on_friday == {n: at for n, at in planned.items() if at < world.clock.now().timestamp()}
    # On Saturday the carrier is away for most of an hour, the sender is killed in the middle of a hand-over, and
    # another one takes its place.
    world.carrier.answers = {f"+1{n.replace('-', '')}": [Unavailable("trouble")] * 400 for n in _numbers(areas)}
    world.run("2026-10-31T10:50:00-03:00")
    world.carrier.answers = {}
    with dying_after(world, 5):
        world.run("2026-10-31T11:30:00-03:00")
    world.clock.passed += 300
    world.start()
    world.run("2026-11-01T00:00:00-03:00")
    again = world.forecast(number)
    assert again == {n: at for n, at in planned.items() if n in again}, "Sunday is as it was forecast on Friday"
    assert all(at > datetime.fromisoformat("2026-11-01T09:00:00-04:00").timestamp() - 1 for at in again.values())
    world.run()
    went = dict(world.left)
    assert Counter(number for number, _ in world.carrier.arrived).most_common(1)[0][1] == 1
    assert (len(world.carrier.arrived), world.marks()) == (40, {"Sent": 40})
    assert {n: went[n] for n in again} == again
    for each, at in went.items():
        for zone in ("America/Toronto",) if each.startswith("+1416") else ("America/Halifax",):
            then = datetime.fromtimestamp(at, ZoneInfo(zone))
            assert 9 <= then.hour < 17, (each, then)
        if each.startswith("+1709"):
            assert datetime.fromtimestamp(at, ZoneInfo("America/St_Johns")).hour < 17
    days = Counter(datetime.fromtimestamp(at, ZoneInfo(OFFICE)).date() for at in went.values())
    assert max(days.values()) <= 16
    assert min(b - a for a, b in pairwise(sorted(went.values()))) >= 60


def _numbers(areas):
    return [f"{area}{n:02}" for n, area in enumerate(areas)]


def test_a_cap_is_counted_from_the_record_whatever_comes_between(harbour):
    """Neither a restart, nor a retry, nor another round, nor clocks put back get around it."""
    world = harbour()
    pace = {"every": 10, "give_or_take": 0, "per_day": [2, 3]}
    world.begin(pace, [AREAS[0]] * 3)
    world.begin(pace, [AREAS[0]] * 4, first=10)
    world.run("2026-11-26T16:30:00-04:00")
    world.start()
    world.run("2026-11-26T20:00:00-04:00")
    world.clock.ahead -= 3 * 3600
    world.run("2026-11-26T22:00:00-04:00")
    assert len(world.left) == 2, "one of each round"
    world.run("2026-11-27T12:00:00-04:00")
    assert len(world.left) == 5
    world.clock.ahead -= 24 * 3600
    world.start()
    world.run("2026-11-26T22:00:00-04:00")
    assert len(world.left) == 5, "Thursday had its two already"
    world.run()
    assert (len(world.left), world.marks()) == (7, {"Sent": 7})


def test_a_machine_that_slept_goes_on_at_its_pace_and_within_the_hours(harbour):
    """While it sleeps civil time goes on, and the clock that only runs forward does not."""
    world = harbour("2026-11-26T16:50:00-04:00")
    world.begin({"every": 60, "give_or_take": 0, "hours": WORKING}, [AREAS[0]] * 8)
    world.run("2026-11-26T16:52:30-04:00")
    assert len(world.left) == 3
    world.clock.ahead += 10 * 3600
    world.run("2026-11-27T08:59:59-04:00")
    assert len(world.left) == 3
    world.run("2026-11-27T09:02:30-04:00")
    assert list(world.said().values())[3:] == ["Fri 27 09:00:00", "Fri 27 09:01:00", "Fri 27 09:02:00"]


def test_a_carrier_that_says_too_fast_fails_no_row_and_slows_the_line(harbour):
    world = harbour()
    world.begin({"every": 10, "give_or_take": 0}, [AREAS[0]] * 30)
    fast = Unavailable("the carrier asks for fewer texts (429)", too_fast=True)
    world.carrier.answers["+19025550102"] = [fast, fast]
    world.run("2026-11-26T16:01:00-04:00")
    assert world.sender._used.state.slowed > 1
    slowed = world.sender._used.state.slowed
    planned = world.forecast(1)
    world.run()
    assert {number: round(at, 2) for number, at in world.left[-len(planned) :]} == {
        number: round(at, 2) for number, at in planned.items()
    }, f"the forecast counts on its shrinking from {slowed}"
    assert (world.marks(), len(world.carrier.arrived)) == ({"Sent": 30}, 30)
    times = [at for _, at in world.left]
    gaps = [round(b - a, 1) for a, b in pairwise(times)]
    assert gaps[0] == 10
    assert max(gaps[2:]) == pytest.approx(36.4, abs=0.1), "four times as long, and shrinking with each that is taken"
    assert gaps[-1] == 10, "and back at its own pace"
    assert all(gap >= 10 for gap in gaps)


def test_a_row_that_missed_its_moment_is_left_out_and_can_be_taken_up(harbour):
    world = harbour()
    pace = {"every": 10, "give_or_take": 0, "at": "Remind on", "late": 30, "per_day": [1]}
    moments = ["2026-11-26 16:10", "2026-11-26 16:10", "2026-11-27 09:00"]
    world.begin(pace, [AREAS[0]] * 3, moments)
    world.run("2026-11-26T17:00:00-04:00")
    with world.database.reading() as session:
        found = session.query(Message).order_by(Message.row).all()
    assert [message.mark for message in found] == ["Sent", "Left out", "To go"]
    assert found[1].reason == "its own moment was over by more than 30 min"
    world.run()
    assert world.said()["+19025550102"] == "Fri 27 09:00:00"
    with world.database.reading() as session:
        assert session.query(Round).one().stage == Stage.FINISHED


@pytest.mark.parametrize("perhaps_taken", [False, True])
def test_an_absence_outside_the_hours_pauses_nothing(harbour, perhaps_taken):
    """The carrier is away as the hours close; by the morning it is back, and the round goes on by itself."""
    world = harbour("2026-11-26T16:58:00-04:00")
    world.begin({"every": 60, "give_or_take": 0, "hours": WORKING}, [AREAS[0]] * 4)
    world.carrier.answers = {
        f"+1902555010{n}": [Unavailable("trouble", perhaps_taken=perhaps_taken)] * 40 for n in range(1, 4)
    }
    world.run("2026-11-26T23:00:00-04:00")
    decision = world.sender.act()
    assert decision.until > world.clock.passed + 9 * 3600, "nothing to look at until the hours open"
    world.run("2026-11-27T08:59:00-04:00")
    world.carrier.answers = {}
    world.run("2026-11-27T09:30:00-04:00")
    assert world.marks() == {"Sent": 4}


def test_a_pace_that_changes_while_a_round_sends_counts_from_the_next_text(harbour):
    world = harbour()
    number = world.begin({"every": 10, "give_or_take": 0}, [AREAS[0]] * 5)
    world.run("2026-11-26T16:00:15-04:00")
    slower = PaceSettings(every=300, give_or_take=0, hours=HoursSettings(opens="09:00", closes="16:02"))
    with world.database.writing() as session:
        session.get_one(Round, number).recipe = Recipe(wording="Hello {Name}", pace=slower).model_dump_json()
    world.run("2026-11-27T09:06:00-04:00")
    assert list(world.said().values()) == ["Thu 26 16:00:00", "Thu 26 16:00:10", "Fri 27 09:00:00", "Fri 27 09:05:00"]
