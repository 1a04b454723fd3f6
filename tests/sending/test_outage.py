"""How long a carrier that is away is left alone, when a row is asked about again, and which failures are alike."""

from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.pace.decide import LONGEST_LOOK, SHORTEST_LOOK, next_look
from gentle_ledger.sending.outage import Alike, after_failure
from gentle_ledger.sending.questions import Asking, Questions
from tests.sending.world import CountingCarrier, HandClock

AT = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)
LATER = datetime(2026, 11, 24, 13, 0, tzinfo=UTC)

LOOKS = [
    # failures in a row, the draw, the seconds
    (0, 0.0, 1.0),
    (1, 0.0, 1.0),
    (1, -1.0, 1.0),
    (1, 1.0, 1.2),
    (2, 0.0, 2.0),
    (2, -1.0, 1.6),
    (3, 0.0, 4.0),
    (9, 0.0, 256.0),
    (10, 0.0, 300.0),
    (10, 1.0, 300.0),
    (10, -1.0, 240.0),
    (10, -9.0, 240.0),
    (1_000_000, 0.0, 300.0),
]


@pytest.mark.parametrize(("failures", "draw", "seconds"), LOOKS)
def test_the_waits_grow_from_a_second_to_five_minutes_give_or_take_a_fifth(failures, draw, seconds):
    assert next_look(failures, draw) == pytest.approx(seconds)


@given(st.integers(0, 10**9), st.floats(-5, 5))
def test_no_wait_is_shorter_than_the_shortest_or_longer_than_the_longest(failures, draw):
    assert SHORTEST_LOOK <= next_look(failures, draw) <= LONGEST_LOOK


def test_the_carriers_own_wait_is_never_shortened():
    first = after_failure(None, "busy", 60.0, next_look(1, 0.0), AT, 100.0)
    assert (first.since, first.failures, first.wait, first.asked, first.until, first.first_at) == (
        AT,
        1,
        60.0,
        60.0,
        160.0,
        100.0,
    )
    second = after_failure(first, "gone", 0.0, next_look(2, 0.0), LATER, 160.0)
    assert (second.reason, second.since, second.failures, second.wait) == ("gone", AT, 2, 2.0)
    assert (second.asked, second.until, second.first_at) == (0.0, 162.0, 100.0)
    third = after_failure(second, "busy", 3.0, next_look(3, 0.0), LATER, 162.0)
    assert (third.failures, third.wait, third.asked) == (3, 4.0, 3.0)


CUT = [
    # asked for by the carrier, now (the wait began at 100), when it may be looked at then
    (0.0, 100.0, 100.0),
    (0.0, 101.0, 101.0),
    (30.0, 101.0, 130.0),
    (30.0, 129.0, 130.0),
    (30.0, 140.0, 140.0),
]


@pytest.mark.parametrize(("asked", "now", "until"), CUT)
def test_a_wait_is_cut_short_down_to_what_the_carrier_asked_for(asked, now, until):
    away = after_failure(None, "busy", asked, next_look(1, 0.0), AT, 100.0)
    assert away.cut_short(now).until == until


def test_a_row_is_asked_about_after_growing_waits_and_once_more_when_no_record_is_proof():
    asking, now, waits = Asking(settled=160.0, due=101.0), 101.0, []
    while now < 700:
        asking = asking.later(next_look(asking.asked + 1, 0.0), now)
        waits.append(asking.due - now)
        now = asking.due
    assert waits == [1, 2, 4, 8, 16, 28, 64, 128, 256, 300]
    assert sum(waits[:6]) + 101 == 160


ALIKE = [
    # what failed, own or not, and at which of them the round pauses
    ([("x", False)] * 3, [3]),
    ([("x", False)] * 6, [3, 6]),
    ([("x", False), ("x", False), ("y", False), ("x", False), ("x", False)], []),
    ([("x", True)] * 10, [10]),
    ([("x", True)] * 9, []),
    ([("x", False), None, ("x", False), ("x", False)], []),
]


@pytest.mark.parametrize(("failures", "pauses"), ALIKE)
def test_failures_that_are_alike_one_after_the_other(failures, pauses):
    alike, found = Alike(), []
    for n, failure in enumerate(failures, 1):
        if failure is None:
            alike.went()
        elif alike.failed(failure[0], own=failure[1]):
            found.append(n)
    assert found == pauses


def test_a_question_that_was_settled_begins_anew():
    clock = HandClock()
    questions = Questions(CountingCarrier(clock), clock, lambda: 0.0)
    questions.handed_over(7)
    assert (questions[7].settled, questions[7].due, questions.next_of([7, 8])) == (60.0, 1.0, (0.0, 8))
    clock.passed = 30.0
    questions.asked(7)
    assert (questions[7].due, questions.next_of([7])) == (31.0, (31.0, 7))
    questions.ask_now(7)
    assert (questions[7].due, questions.settled(7)) == (30.0, False)
    clock.passed = 60.0
    assert questions.settled(7)
    questions.forget(7)
    assert (questions[7].settled, questions[7].due) == (120.0, 60.0)
    assert questions.next_of([]) is None
