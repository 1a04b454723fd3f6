"""One to myself: at the pace, on record, in no row's history, and never a second time on its own."""

import sqlite3

import pytest
from sqlalchemy import select

from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending.lines import Refused, Silent, Unavailable
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.lines import KeptAway, keep_away
from gentle_ledger.store.models import LedgerEntry, LineRecord, Message, Round, Trial
from gentle_ledger.store.no_more_texts import note
from gentle_ledger.store.stages import step_stage
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.trials import ask_for_trial, trials_left
from gentle_ledger.store.use import use_of
from tests.sending.world import Crash, World

OWN = "+19025550199"


@pytest.fixture
def world(tmp_path):
    return World(tmp_path, rows=2)


def asked(world, text="Hello P0", number=OWN):
    with world.database.writing() as session:
        return ask_for_trial(session, world.round_id, 1, number, text, 1, world.clock.now()).id


def trial(world, number=1):
    with world.database.reading() as session:
        return session.get_one(Trial, number)


def test_a_trial_keeps_the_gap_and_leaves_rows_and_ledger_alone(world):
    world.run(25)
    before = list(world.carrier.arrived)
    asked(world)
    world.run()
    assert world.carrier.arrived[-1] == (OWN, "Hello P0")
    assert [number for number, _ in before] == world.numbers
    # One text every 10 s, give or take 2: with draws of -1 the shortest gap is 8 s.
    gaps = [b - a for a, b in zip(world.carrier.left_at, world.carrier.left_at[1:], strict=False)]
    assert min(gaps) >= 8
    assert (trial(world).mark, trial(world).line) == (Mark.SENT, world.carrier.identity)
    with world.database.reading() as session:
        assert session.scalars(select(Message.address)).all() == world.numbers
        assert OWN not in {entry.reference for entry in session.scalars(select(LedgerEntry))}
        assert len(session.scalars(select(LedgerEntry)).all()) == 4
        now = world.clock.now().timestamp()
        assert use_of(session, world.carrier.name, now, "UTC").of_day == 3, "it counts as any text does"


def test_a_trial_goes_between_the_texts_of_a_round_that_sends(world):
    world.run(1)
    asked(world)
    world.run()
    assert [number for number, _ in world.carrier.arrived] == [world.numbers[0], OWN, world.numbers[1]]


def test_after_a_restart_a_trial_alone_makes_the_next_text_wait_its_gap(tmp_path):
    world = World(tmp_path, rows=1)
    with world.database.writing() as session:
        step_stage(session.get_one(Round, world.round_id), Stage.PAUSED)
    asked(world)
    world.run()
    world.start()
    left = len(world.carrier.left_at)
    asked(world, "Hello again")
    assert world.sender.act() is not None
    assert len(world.carrier.left_at) == left


@pytest.mark.parametrize(
    ("answers", "marks", "hand_overs"),
    [
        ([Refused("not in use", own=True)], [Mark.FAILED], 1),
        (["lost"], [Mark.SENT], 1),  # the carrier is asked, and had taken it
        ([Silent("nothing")], [Mark.UNSURE], 1),  # no record is no proof yet: it is not sent again
        (["taken, but 500"], [Mark.SENT], 1),
        ([Unavailable("down")], [Mark.SENT], 2),  # not taken at all: it keeps its turn
    ],
)
def test_what_the_carrier_says_of_a_trial(world, answers, marks, hand_overs):
    world.carrier.answers[OWN] = answers
    world.run()
    gone = len(world.carrier.references)
    asked(world)
    world.run()
    assert [trial(world).mark] == marks
    assert len(world.carrier.references) - gone == hand_overs
    assert len([1 for number, _ in world.carrier.arrived if number == OWN]) <= 1


@pytest.mark.parametrize("taken", [True, False])
def test_a_kill_in_the_middle_hands_no_trial_over_twice(world, taken):
    world.run()
    hand_over = world.carrier.hand_over

    def dies(reference, number, text):
        if taken:
            hand_over(reference, number, text)
        raise Crash

    asked(world)
    world.carrier.hand_over = dies
    with pytest.raises(Crash):
        world.run()
    world.carrier.hand_over = hand_over
    world.start()
    world.run()
    assert trial(world).mark == (Mark.SENT if taken else Mark.UNSURE)
    assert [number for number, _ in world.carrier.arrived].count(OWN) == (1 if taken else 0)


def test_ten_may_follow_each_other_until_a_text_of_a_round_goes(world):
    with world.database.writing() as session:
        for i in range(10):
            ask_for_trial(session, 1, 1, OWN, f"Hello {i}", 1, world.clock.now())
        with pytest.raises(NotNow, match="10 trials"):
            ask_for_trial(session, 1, 1, OWN, "Hello 10", 1, world.clock.now())
    world.run()
    with world.database.reading() as session:
        assert trials_left(session, world.clock.now()) == 10
    world.clock.passed += 1
    asked(world, "Hello 11")
    with pytest.raises(NotNow, match="on its way"):
        asked(world, "Hello 11")
    world.run()
    world.clock.passed += 86_400
    with world.database.reading() as session:
        assert trials_left(session, world.clock.now()) == 10


@pytest.mark.parametrize(
    "unsaid",
    [
        "UPDATE trials SET text = 'x'",
        "UPDATE trials SET mark = 'To go' WHERE mark = 'Sent'",
        "DELETE FROM trials",
    ],
)
def test_a_trial_stays_on_record_as_it_was(world, unsaid):
    asked(world)
    world.run()
    with pytest.raises(sqlite3.DatabaseError), sqlite3.connect(world.database.path) as raw:
        raw.execute(unsaid)


def test_a_carrier_that_asked_to_be_left_alone_is_not_asked_about_a_trial_either(world):
    world.run()
    asked(world)
    hand_over, world.carrier.hand_over = world.carrier.hand_over, None
    with pytest.raises(TypeError):
        world.run()
    world.carrier.hand_over = hand_over
    with world.database.writing() as session:
        line = session.scalars(select(LineRecord)).one()
        keep_away(
            statements_of(session), line.id, KeptAway("busy", world.clock.now(), 1, 100.0, 100.0, world.clock.now())
        )
    world.start()
    before, began = len(world.carrier.asked_at), world.clock.passed
    world.run()
    assert all(at - began >= 100 for at in world.carrier.asked_at[before:])
    assert len(world.carrier.asked_at) > before
    assert trial(world).mark == Mark.UNSURE


def test_one_whose_number_asked_for_no_more_texts_since_does_not_go(world):
    asked(world)
    with world.database.writing() as session:
        note(session, OWN, world.clock.now().date(), "", world.clock.now())
    world.run()
    assert (trial(world).mark, "no more texts" in trial(world).reason) == (Mark.FAILED, True)
    assert OWN not in dict(world.carrier.arrived)


def test_one_does_not_wait_for_a_carrier_without_an_end(world):
    world.carrier.answers[OWN] = [Unavailable("away", 300)] * 99
    asked(world)
    world.run(3_000)
    assert trial(world).mark == Mark.TO_GO, "an outage of less than an hour costs it nothing"
    world.run(2_000)
    assert (trial(world).mark, "away" in trial(world).reason) == (Mark.FAILED, True)
    world.carrier.answers.clear()
    world.run(2_000)
    assert OWN not in dict(world.carrier.arrived)
