"""The pace: the gap is never shorter than set, whatever happens in between."""

from datetime import UTC, datetime
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.pace.decide import (
    ANY_ROW,
    LineState,
    Pace,
    RoundState,
    RowState,
    Send,
    Wait,
    Why,
    decide,
    now_at,
)
from gentle_ledger.core.pace.forecast import RoundAhead, forecast
from gentle_ledger.core.pace.why import lasting
from gentle_ledger.core.recipe.kept import kept_recipe, salvaged
from gentle_ledger.core.recipe.pace import HoursSettings
from gentle_ledger.core.recipe.toml import recipe_from_toml, recipe_to_toml

PACE = Pace(12, 4)

CASES = [
    # state, now, decision, why
    (LineState(), 5.0, Send(), "the very first leaves at once"),
    (LineState(last_at=0), 11.9, Wait(12, Why.GAP), "the gap is not over"),
    (LineState(last_at=0), 12.0, Send(), "the gap is over"),
    (LineState(last_at=0, draw=1), 15.9, Wait(16, Why.GAP), "drawn long"),
    (LineState(last_at=0, draw=-1), 8.0, Send(), "drawn short"),
    (LineState(last_at=0, draw=-9), 7.9, Wait(8, Why.GAP), "no draw goes below the least"),
    (LineState(last_at=0, not_before=30), 20.0, Wait(30, Why.CARRIER), "the carrier asked us to wait"),
    (LineState(last_at=25, not_before=30), 31.0, Wait(37, Why.GAP), "and then the gap still counts"),
    (LineState(last_at=100), 50.0, Wait(112, Why.GAP), "a clock that went back"),
]


START = datetime(2026, 11, 24, 12, 6, tzinfo=UTC)


def at(forward):
    return now_at(0.0, START)._replace(forward=forward, civil=START.timestamp() + forward)


@pytest.mark.parametrize(("state", "now", "decision", "why"), CASES, ids=[case[3] for case in CASES])
def test_decisions(state, now, decision, why):
    assert decide(state, RoundState(PACE), ANY_ROW, at(now)) == decision


WAITS = [
    # what stands against it besides a gap that is over, the decision, in the order in which it is told
    ({"paused": True, "row": 5, "carrier": 30}, Wait(None, Why.PAUSED)),
    ({"row": 5, "carrier": 30}, Wait(105, Why.MOMENT)),
    ({"carrier": 130}, Wait(130, Why.CARRIER)),
    ({"row": 0, "carrier": 100}, Send()),
    ({"row": -5}, Send()),
]


@pytest.mark.parametrize(("against", "decision"), WAITS)
def test_the_round_the_text_and_the_carrier_are_waited_for_in_this_order(against, decision):
    now = at(100)
    row = RowState(moment=now.civil + against["row"]) if "row" in against else ANY_ROW
    line = LineState(last_at=0, not_before=against.get("carrier"))
    assert decide(line, RoundState(PACE, against.get("paused", False)), row, now) == decision


steps = st.lists(
    st.sampled_from(["look", "pause", "go on", "restart"]) | st.floats(0.01, 40).map(lambda s: round(s, 2)), max_size=60
)


@given(steps, st.floats(0.1, 60), st.floats(0, 60), st.randoms())
def test_gap_is_never_shorter_under_any_order_of_pause_resume_restart(steps, every, jitter, rng):
    """Numbers pass time; a restart forgets all but that texts have left, on a clock of its own."""
    pace = Pace(every, min(jitter, every))
    state, paused, now, world, left = LineState(), False, 0.0, 0.0, []
    for do in steps:
        if isinstance(do, float):
            now, world = now + do, world + do
        elif do == "pause":
            paused = True
        elif do == "go on":
            paused = False
        elif do == "restart":
            now = rng.uniform(-1e6, 1e6)
            state = LineState(last_at=now if left else None, draw=rng.uniform(-1, 1))
        elif decide(state, RoundState(pace, paused), ANY_ROW, at(now)) == Send():
            left.append(world)
            state = state._replace(last_at=now, draw=rng.uniform(-1, 1))
    gaps = [b - a for a, b in pairwise(left)]
    # Time is added up in floats, and a restarted clock may stand at a million seconds: a microsecond of grace.
    assert all(gap >= max(0.1, every - min(jitter, every)) - 1e-6 for gap in gaps)


def test_what_it_adds_up_to():
    run = forecast(LineState(), [RoundAhead(PACE, [ANY_ROW] * 209)], at(0))[0]
    assert datetime.fromtimestamp(run.last, UTC) == datetime(2026, 11, 24, 12, 47, 36, tzinfo=UTC)
    assert forecast(LineState(), [RoundAhead(PACE, [])], at(0))[0].last is None
    assert [lasting(s) for s in (0.2, 45, 540, 9900, 200_000)] == ["1 s", "45 s", "9 min", "2 h 45 min", "2 days 8 h"]


@given(
    st.none() | st.floats(-50, 100),
    st.floats(-1, 1),
    st.none() | st.floats(0, 300),
    st.floats(0.1, 60),
    st.integers(1, 40),
)
def test_so_many_texts_take_the_wait_of_the_first_and_a_gap_for_each_other(last_at, draw, not_before, every, texts):
    line, now, pace = LineState(last_at=last_at, draw=draw, not_before=not_before), at(100.0), Pace(every)
    run = forecast(line, [RoundAhead(pace, [ANY_ROW] * texts)], now)[0]
    first = max(100.0, not_before or 0.0, 100.0 if last_at is None else last_at + every)
    assert run.last - now.civil == pytest.approx(first - 100.0 + (texts - 1) * every, abs=1e-3)


@pytest.mark.parametrize(
    ("seconds", "said"),
    [
        (0, "1 s"),
        (59.4, "59 s"),
        (60, "1 min"),
        (3_569, "59 min"),
        (3_600, "1 h 00 min"),
        (47 * 3_600 + 3_540, "47 h 59 min"),
        (48 * 3_600, "2 days 0 h"),
        (10 * 86_400 + 3 * 3_600, "10 days 3 h"),
    ],
)
def test_a_length_of_time_as_it_is_said(seconds, said):
    assert lasting(seconds) == said


PACES = [
    # what stands under [pace], what is told of it, or the setting it becomes
    ("start = 2026-12-01T09:00:00Z", "leave the offset out"),
    ("start = 2026-12-01", "a day with a time, such as 2026-12-01T09:00:00"),
    ("start = 1795521960", "a day with a time"),
    ("per_day = [0]", "greater than or equal to 1"),
    ("after = 5\nrest = 0", "say how long it is"),
    ("late = 5", 'say with "at" which column has it'),
    ('[pace.hours]\nfrom = "17:00"\nto = "09:00"', "never come"),
    ('[pace.hours]\nfrom = "09:00"\nto = "09:00"', "never come"),
    ('[pace.hours]\nfrom = "25:00"', "hours and minutes, such as 09:00"),
    ("[pace.hours]\ndays = []", "at least 1 item"),
    ('[pace.hours]\nholidays = "CA-XX"', 'no public holidays are known for "CA-XX"'),
    ("per_day = 300", {"per_day": (300,)}),
    ("start = 2026-12-01T09:00:00", {"start": datetime.fromisoformat("2026-12-01T09:00:00")}),
    ("[pace.hours]\nfrom = 09:00:00", {"hours": HoursSettings()}),
    ('[pace.hours]\nto = "24:00"', {"hours": HoursSettings(closes="24:00")}),
    ('[pace.hours]\ndays = ["Fri", "Mon"]', {"hours": HoursSettings(days=["Mon", "Fri"])}),
]


@pytest.mark.parametrize(("written", "told"), PACES, ids=[case[0] for case in PACES])
def test_a_pace_as_it_is_written(written, told):
    toml = f'wording = "x"\n[pace]\nevery = 12\n{written}'
    if isinstance(told, str):
        with pytest.raises(RecipeError) as refused:
            recipe_from_toml(toml)
        assert told in refused.value.sentence
        return
    recipe = recipe_from_toml(toml)
    assert {name: getattr(recipe.pace, name) for name in told} == told
    assert recipe_from_toml(recipe_to_toml(recipe)) == recipe
    assert salvaged(kept_recipe(recipe)) == (recipe, ())
