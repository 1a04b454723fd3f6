"""The sender: marks, gaps, crashes. Nothing is ever handed over twice."""

from collections import Counter
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gentle_ledger.core.marks import ALLOWED, Mark, Stage
from gentle_ledger.sending.sender import NO_RECORD, Sender
from gentle_ledger.store.messages import StepRefused, again, history_of, may_be_tried_again, step
from gentle_ledger.store.models import Message, Round
from tests.sending.world import Accepted, Refused, Silent, World, dying_after


@pytest.fixture
def world(tmp_path):
    return World(tmp_path)


def stage(world, to: Stage) -> None:
    with world.database.writing() as session:
        session.get_one(Round, world.round_id).stage = to


def try_again(world) -> int:
    with world.database.writing() as session:
        rows = may_be_tried_again(session, world.round_id)
        return again(session, session.get_one(Round, world.round_id), world.clock.now(), rows, "again")


def test_a_round_goes_row_by_row_at_its_pace(world):
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert [number for number, _ in world.carrier.arrived] == world.numbers
    assert [text for _, text in world.carrier.arrived] == ["Hello P0", "Hello P1", "Hello P2"]
    gaps = [b - a for a, b in pairwise(world.carrier.left_at)]
    assert all(gap >= 8 for gap in gaps)
    with world.database.reading() as session:
        assert session.get_one(Round, world.round_id).stage == Stage.FINISHED


OUTCOMES = [
    (Refused("the number is not in use"), "Failed", "the number is not in use", False, 0),
    (Refused("the carrier was busy", may_retry=True, wait=30), "Failed", "the carrier was busy", True, 0),
    ("lost", "Sent", "", False, 1),
    (Silent("no answer"), "Failed", NO_RECORD, True, 0),
]


@pytest.mark.parametrize(("answer", "mark", "reason", "may_retry", "arrived"), OUTCOMES)
def test_what_the_carrier_answers_becomes_the_mark(world, answer, mark, reason, may_retry, arrived):
    world.carrier.answers[world.numbers[1]] = [answer]
    world.run()
    second = world.message(2)
    assert (second.mark, second.reason, second.may_retry) == (mark, reason, may_retry)
    assert Counter(number for number, _ in world.carrier.arrived)[world.numbers[1]] == arrived
    assert world.marks()[0] == world.marks()[2] == "Sent"


def test_a_busy_carrier_is_left_alone_as_long_as_it_asks(world):
    world.carrier.answers[world.numbers[0]] = [Refused("busy", may_retry=True, wait=30)]
    world.run()
    assert world.carrier.left_at[1] - world.carrier.left_at[0] >= 30


def test_silence_makes_unsure_and_pauses_the_round(world):
    world.carrier.answers[world.numbers[0]] = ["lost"]
    world.carrier.deaf = True
    world.run()
    assert world.marks() == ["Unsure", "To go", "To go"]
    assert try_again(world) == 0
    world.carrier.deaf = False
    assert world.sender.ask_again(world.round_id) == 1
    assert world.marks()[0] == "Sent"
    assert len(world.carrier.arrived) == 1


def test_the_carrier_that_cannot_be_reached_costs_one_row_and_pauses(world):
    world.carrier.answers[world.numbers[0]] = [Refused("the carrier cannot be reached", may_retry=True, line_down=True)]
    world.run()
    assert world.marks() == ["Failed", "To go", "To go"]
    with world.database.reading() as session:
        found = session.get_one(Round, world.round_id)
        assert (found.stage, found.note) == (Stage.PAUSED, "the carrier cannot be reached")


def test_trying_again_takes_only_what_may_succeed_and_keeps_both_tries(world):
    world.carrier.answers[world.numbers[0]] = [Refused("not in use")]
    world.carrier.answers[world.numbers[1]] = [Refused("busy", may_retry=True)]
    world.run()
    assert try_again(world) == 1
    world.run()
    assert world.marks() == ["Failed", "Sent", "Sent"]
    with world.database.reading() as session:
        history = history_of(session, world.message(2).id)
    assert [entry.mark for entry in history] == ["Going", "Failed", "To go", "Going", "Sent"]
    assert len({entry.reference for entry in history if entry.mark == "Going"}) == 2


def test_a_first_try_that_arrived_late_is_found_before_the_second(world):
    """The carrier had no record when asked, and yet took the text afterwards: the second try must not send it again."""
    world.carrier.answers[world.numbers[0]] = [Silent("no answer")]
    world.run()
    reference = world.message(1).reference
    world.carrier.known[reference] = Accepted("late")
    world.carrier.arrived.append((world.numbers[0], "Hello P0"))
    assert try_again(world) == 1
    world.run()
    assert world.message(1).mark == "Sent"
    assert Counter(world.carrier.arrived).most_common(1)[0][1] == 1


def test_pause_keeps_the_gap_and_stop_ends(world):
    world.sender.step()
    stage(world, Stage.PAUSED)
    world.clock.passed += 3
    assert world.sender.step() is None
    stage(world, Stage.SENDING)
    world.run()
    gaps = [b - a for a, b in pairwise(world.carrier.left_at)]
    assert all(gap >= 8 for gap in gaps)


def test_a_restart_waits_one_whole_gap(world):
    world.sender.step()
    world.clock.passed += 100
    world.start()
    world.sender.step()
    assert len(world.carrier.left_at) == 1
    world.clock.passed += 8
    world.sender.step()
    assert len(world.carrier.left_at) == 2


TROUBLES = ["", "lost", "silent", "busy", "deaf"]


@pytest.mark.parametrize("trouble", TROUBLES)
@pytest.mark.parametrize("death", range(26))
def test_no_crash_between_two_steps_sends_twice_or_loses_a_row(tmp_path, death, trouble):
    """One crash at every touch of the outside: a commit or a call of the carrier, before it and after it."""
    survive(tmp_path, [death], trouble)


@settings(max_examples=40, deadline=None)
@given(st.lists(st.integers(0, 30), min_size=2, max_size=4), st.sampled_from(TROUBLES))
def test_no_row_of_crashes_sends_twice_or_loses_a_row(tmp_path_factory, deaths, trouble):
    survive(tmp_path_factory.mktemp("crash"), deaths, trouble)


def survive(folder, deaths, trouble):
    """Dies at each of `deaths`, starts again each time, and counts what arrived on the handsets."""
    world = World(folder, rows=3)
    answers = {"lost": ["lost"], "silent": [Silent("x")], "busy": [Refused("busy", may_retry=True)]}
    world.carrier.answers[world.numbers[1]] = answers.get(trouble, [])
    world.carrier.deaf = trouble == "deaf"
    for steps in deaths:
        with dying_after(world, steps):
            world.run()
        world.start()
        world.clock.passed += 20
    world.carrier.deaf = False
    stage(world, Stage.SENDING)
    world.run()
    assert all(n == 1 for n in Counter(world.carrier.arrived).values())
    assert set(world.marks()) <= {"Sent", "Failed", "Unsure"}
    world.sender.ask_again(world.round_id)
    arrived = {number for number, _ in world.carrier.arrived}
    for message in world.messages():
        assert (message.mark == "Sent") == (message.address in arrived)
    while try_again(world):
        world.run()
    assert world.marks() == ["Sent"] * 3
    assert Counter(world.carrier.arrived) == Counter((n, f"Hello P{i}") for i, n in enumerate(world.numbers))


def test_only_one_sender(world):
    second = Sender(world.database, world.carrier, world.clock)
    assert world.sender.take_lock()
    assert not second.take_lock()
    world.sender.release_lock()
    assert second.take_lock()
    second.release_lock()


@pytest.mark.parametrize("before", list(Mark))
@pytest.mark.parametrize("after", list(Mark))
def test_steps_of_marks(world, before, after):
    """Code and database agree on every step: what ALLOWED does not list, the trigger refuses too."""
    with world.database.writing() as session:
        message = session.get_one(Message, world.message(1).id)
        trigger = "SELECT sql FROM sqlite_master WHERE name = 'marks_step_only_as_allowed'"
        sql = session.connection().exec_driver_sql(trigger).scalar_one()
        assert (f"(OLD.mark = '{before}' AND NEW.mark = '{after}')" in sql) == ((before, after) in ALLOWED)
        message.mark = before
        session.expunge(message)
        if (before, after) not in ALLOWED:
            with pytest.raises(StepRefused):
                step(session, message, after, world.clock.now())


def test_the_record_stays(world):
    world.run()
    for statement in (
        "UPDATE ledger SET reason = 'x'",
        "DELETE FROM ledger",
        "UPDATE messages SET text = 'x'",
        "UPDATE messages SET address = 'x'",
        "UPDATE messages SET mark = 'To go'",
        "DELETE FROM messages",
    ):
        with pytest.raises(Exception, match=r"only added to|cannot"), world.database.writing() as session:
            session.connection().exec_driver_sql(statement)
    assert world.marks() == ["Sent"] * 3
