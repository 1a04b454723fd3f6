"""The sender: marks, gaps, crashes. Nothing is ever handed over twice."""

from collections import Counter
from datetime import timedelta
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy.exc import IntegrityError, OperationalError

from gentle_ledger.core.pace.decide import Send, Wait, Why
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.marks import ALLOWED, TO_BE_TRIED, Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending import sender
from gentle_ledger.sending.loop import Loop
from gentle_ledger.sending.sender import Sender
from gentle_ledger.sending.verdicts import CANNOT_BE_ASKED, CANNOT_SAY, GONE_BEFORE, NO_RECORD, NOT_YET, OTHER_LINE
from gentle_ledger.store.attempts import AttemptState, attempts_of, begin_attempt, settle_attempt
from gentle_ledger.store.messages import again, history_of, may_be_tried_again, with_mark
from gentle_ledger.store.models import Attempt, LineRecord, Message, Round
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.steps import StepRefused, leave_some_out, step
from tests.sending.world import START, Accepted, CountingCarrier, Refused, Silent, Unavailable, World, dying_after


@pytest.fixture
def world(tmp_path):
    return World(tmp_path)


def stage(world, to: Stage) -> None:
    with world.database.writing() as session:
        session.get_one(Round, world.round_id).stage = to


def try_again(world) -> int:
    with world.database.writing() as session:
        rows = may_be_tried_again(session, world.round_id)
        return again(session, session.get_one(Round, world.round_id), world.clock.now(), rows, TO_BE_TRIED())


def entries(world, row: int):
    """What the ledger says of a row, in order."""
    with world.database.reading() as session:
        return history_of(session, world.message(row).id)


def test_a_round_goes_row_by_row_at_its_pace(world):
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert [number for number, _ in world.carrier.arrived] == world.numbers
    assert [text for _, text in world.carrier.arrived] == ["Hello P0", "Hello P1", "Hello P2"]
    gaps = [b - a for a, b in pairwise(world.carrier.left_at)]
    assert all(gap >= 8 for gap in gaps)
    with world.database.reading() as session:
        assert session.get_one(Round, world.round_id).stage == Stage.FINISHED


def test_rounds_that_send_at_the_same_time_take_turns(world):
    world.begin_round("506-555-01", 2)
    world.run()
    assert [number[:5] for number, _ in world.carrier.arrived] == ["+1902", "+1506", "+1902", "+1506", "+1902"]


def test_what_is_paused_or_left_out_as_it_would_be_handed_over_does_not_go(world, monkeypatch):
    look, changes = sender.to_do, []

    def leave_out():
        with world.database.writing() as session:
            assert leave_some_out(statements_of(session), world.round_id, world.clock.now())

    def meanwhile(*asked):
        seen = look(*asked)
        changes.pop()()
        return seen

    monkeypatch.setattr(sender, "to_do", meanwhile)
    for change, mark in ((lambda: stage(world, Stage.PAUSED), "To go"), (leave_out, "Left out")):
        changes.append(change)
        world.sender.act()
        assert (world.marks(), world.carrier.left_at) == ([mark] * 3, [])
        stage(world, Stage.SENDING)


def test_a_round_is_finished_when_its_last_row_is_marked_unless_somebody_was_quicker(world, monkeypatch):
    world.run(15)
    version = world.round().version
    look, changes = sender.to_do, []

    def meanwhile(*asked):
        seen = look(*asked)
        if seen.done and changes:
            changes.pop()()
        return seen

    monkeypatch.setattr(sender, "to_do", meanwhile)
    changes.append(lambda: stage(world, Stage.STOPPED))
    world.run()
    assert (world.round().stage, world.round().finished_at, world.round().version) == (Stage.STOPPED, None, version)
    stage(world, Stage.SENDING)
    at = world.clock.now()
    world.run()
    ended = world.round()
    assert (ended.stage, ended.finished_at, ended.version) == (Stage.FINISHED, at, version + 1)


def test_a_row_that_is_tried_again_as_its_round_would_be_finished_goes(world, monkeypatch):
    world.carrier.answers[world.numbers[0]] = [Refused("x", may_retry=True)]
    look, again_then = sender.to_do, [True]

    def meanwhile(*asked):
        seen = look(*asked)
        if seen.done and again_then:
            again_then.pop()
            assert try_again(world) == 1
            stage(world, Stage.SENDING)
        return seen

    monkeypatch.setattr(sender, "to_do", meanwhile)
    world.run()
    assert world.marks() == ["Sent"] * 3


def test_what_a_step_waits_for(world):
    world.carrier.answers[world.numbers[0]] = [Unavailable("busy", 60)]
    assert world.sender.act() == Send()
    assert world.sender.act() == Wait(60, Why.CARRIER)
    stage(world, Stage.PAUSED)
    assert world.sender.act() is None
    stage(world, Stage.SENDING)
    world.clock.passed = 60
    assert world.sender.act() == Send()
    assert world.sender.act() == Wait(68, Why.GAP)
    world.carrier.answers = {number: [Unavailable("trouble", perhaps_taken=True)] for number in world.numbers[1:]}
    world.clock.passed = 68
    world.sender.act()
    world.clock.passed = 90
    world.sender.act()
    world.clock.passed = 100
    assert world.sender.act() == Wait(68 + world.carrier.settles_after, Why.SETTLING)


@pytest.mark.parametrize("tells_repeats_apart", [True, False])
def test_a_second_try_waits_until_no_record_of_the_first_is_proof(world, tells_repeats_apart):
    world.carrier.tells_repeats_apart = tells_repeats_apart
    world.carrier.answers[world.numbers[0]] = [Unavailable("trouble", perhaps_taken=True)]
    world.run()
    assert world.marks() == ["Sent"] * 3
    again_at = [entry.at for entry in entries(world, 1) if entry.mark == "Going"]
    assert (again_at[1] - again_at[0]).total_seconds() >= world.carrier.settles_after


def test_after_a_restart_no_record_is_proof_only_after_the_whole_settling_time(world):
    world.carrier.answers[world.numbers[0]] = [Silent("no answer")]
    world.sender.act()
    assert world.marks()[0] == "Unsure"
    world.clock.passed += 300
    world.start()
    world.run(world.carrier.settles_after - 1)
    assert world.marks()[0] == "Unsure"
    world.run()
    assert world.marks()[0] == "Failed"


OUTCOMES = [
    (Refused("the number is not in use"), "Failed", "the number is not in use", False, 0),
    (Refused("the carrier refused it: x", may_retry=True), "Failed", "the carrier refused it: x", True, 0),
    (Unavailable("the carrier was busy", 30), "Sent", "", False, 1),
    (Unavailable("trouble", perhaps_taken=True), "Sent", "", False, 1),
    ("lost", "Sent", "", False, 1),
    (Silent("no answer"), "Failed", NO_RECORD().sentence, True, 0),
    ("taken, but 500", "Sent", "", False, 1),
]


@pytest.mark.parametrize(("answer", "mark", "reason", "may_retry", "arrived"), OUTCOMES)
def test_what_the_carrier_answers_becomes_the_mark(world, answer, mark, reason, may_retry, arrived):
    world.carrier.answers[world.numbers[1]] = [answer]
    world.run()
    second = world.message(2)
    assert (second.mark, second.reason, second.may_retry) == (mark, reason, may_retry)
    assert Counter(number for number, _ in world.carrier.arrived)[world.numbers[1]] == arrived
    assert world.marks()[0] == world.marks()[2] == "Sent"
    said = entries(world, 2)
    assert len(said) == {Unavailable: 4, Silent: 3}.get(type(answer), 2)
    assert {entry.line for entry in said} == {world.carrier.identity}


@pytest.mark.parametrize("restart", [False, True])
def test_a_busy_carrier_is_left_alone_as_long_as_it_asks(world, restart):
    """Over a restart too: nobody can say how long that took, so the whole wait begins anew."""
    world.carrier.answers[world.numbers[0]] = [Unavailable("busy", 60)]
    world.sender.act()
    world.clock.passed += 5
    if restart:
        world.start()
    world.run()
    assert world.carrier.left_at[1] - world.carrier.left_at[0] >= 60
    assert world.marks() == ["Sent"] * 3


def test_silence_makes_unsure_and_is_asked_about_until_it_can_be_told(world):
    world.carrier.answers[world.numbers[0]] = ["lost"]
    world.carrier.deaf = True
    world.run(1_000)
    assert world.marks() == ["Unsure", "To go", "To go"]
    assert try_again(world) == 0
    waits = [b - a for a, b in pairwise(world.carrier.asked_at)]
    assert world.carrier.asked_at[1] - world.carrier.left_at[0] >= 1
    assert len(waits) < 15
    assert waits == sorted(waits)
    assert max(waits) <= 301
    world.carrier.deaf = False
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert len(world.carrier.arrived) == 3


def test_no_record_is_proof_only_once_the_line_says_so(world):
    """The carrier takes it after 8 s, with a time-out of 3 s: until the settling time it is Unsure, never Failed."""
    world.carrier.answers[world.numbers[0]] = [Silent("no answer in time")]
    world.sender.act()
    assert world.marks()[0] == "Unsure"
    assert try_again(world) == 0
    world.clock.passed += 8
    reference = world.message(1).reference
    world.carrier.known[reference] = Accepted("late")
    world.carrier.arrived.append((world.numbers[0], "Hello P0"))
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert max(Counter(world.carrier.arrived).values()) == 1


def test_no_record_after_the_settling_time_fails_the_row_which_may_be_tried_again_under_its_reference(world):
    for number in world.numbers[:2]:
        world.carrier.answers[number] = [Silent("no answer in time")]
    seen = {}
    for _ in range(200):
        world.sender.act()
        for row, mark in enumerate(world.marks()):
            seen.setdefault((row, mark), world.clock.passed)
        world.clock.passed += 0.5
    for row in (0, 1):
        assert seen[row, "Failed"] - seen[row, "Unsure"] >= world.carrier.settles_after - 0.5
    assert world.carrier.asked_at[:2] == [0, 1]
    world.run()
    assert try_again(world) == 2
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert world.carrier.references.count(world.message(1).reference) == 2


def test_a_line_that_does_not_tell_repeats_apart_gets_a_new_reference(world):
    world.carrier.tells_repeats_apart = False
    world.carrier.answers[world.numbers[0]] = [Unavailable("trouble", perhaps_taken=True)]
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert len(set(world.carrier.references)) == len(world.carrier.references) == 4


def test_an_unsure_row_is_asked_about_under_each_of_its_references(world):
    world.carrier.tells_repeats_apart = False
    world.carrier.answers[world.numbers[0]] = [Unavailable("trouble", perhaps_taken=True), Silent("no answer")]
    world.run(70)
    assert world.marks()[0] == "Unsure"
    first, second = dict.fromkeys(entry.reference for entry in entries(world, 1) if entry.mark == "Going")
    assert world.message(1).reference == second
    world.carrier.known[first] = Accepted("late")
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert world.numbers[0] not in dict(world.carrier.arrived)


@pytest.mark.parametrize("perhaps_taken", [False, True])
def test_an_outage_costs_no_row(world, perhaps_taken):
    """Every hand-over meets a carrier with trouble of its own, for most of an hour; then it is back."""
    gone = Unavailable("the carrier has trouble of its own (500)", perhaps_taken=perhaps_taken)
    for number in world.numbers:
        world.carrier.answers[number] = [gone] * 99
    world.run(3_000)
    assert set(world.marks()) == {"To go"}
    assert len(world.carrier.left_at) < 25
    assert all(gap >= 1 for gap in (b - a for a, b in pairwise(world.carrier.left_at)))
    assert world.sender.away.reason == gone.reason
    assert world.round().stage == Stage.SENDING
    world.carrier.answers.clear()
    world.run(600)
    assert world.marks() == ["Sent"] * 3
    assert world.sender.away is None
    assert Counter(world.carrier.arrived).most_common(1)[0][1] == 1
    if not perhaps_taken:
        assert [message.tries for message in world.messages()] == [1, 1, 1]
    waited = [entry for entry in entries(world, 1) if entry.mark == "To go"]
    assert {(entry.reason, entry.line) for entry in waited} == {(gone.reason, world.carrier.identity)}


def test_an_outage_that_lasts_too_long_pauses_the_round_and_go_on_looks_at_once(world):
    for number in world.numbers:
        world.carrier.answers[number] = [Unavailable("the carrier cannot be reached")] * 99
    world.run(3_590)
    version = world.round().version
    assert world.round().stage == Stage.SENDING
    world.run(20)
    world.sender.act()
    assert world.round().version == version + 1
    assert (world.round().stage, "cannot be reached" in world.round().note) == (Stage.PAUSED, True)
    assert set(world.marks()) == {"To go"}
    world.carrier.answers.clear()
    stage(world, Stage.SENDING)
    world.sender.act()
    assert world.marks()[0] == "Sent"


def test_what_the_carrier_asked_for_is_not_cut_short_by_going_on(world):
    world.carrier.answers[world.numbers[0]] = [Unavailable("busy", 600)]
    world.sender.act()
    stage(world, Stage.PAUSED)
    world.sender.act()
    stage(world, Stage.SENDING)
    world.run()
    assert world.carrier.left_at[1] >= 600


def test_a_carrier_that_takes_a_text_and_says_that_it_failed_is_believed_by_its_record(world):
    for number in world.numbers:
        world.carrier.answers[number] = ["taken, but 500"]
    world.run()
    assert world.marks() == ["Sent"] * 3
    assert [entry.mark for entry in entries(world, 1)] == ["Going", "Sent"]
    assert Counter(world.carrier.arrived).most_common(1)[0][1] == 1


ROW_OF_FAILURES = [
    # (answers to the rows in turn, how many rows fail before the round pauses; None when it does not)
    ([Refused("the carrier refused it: x", True)] * 12, 3),
    ([Silent("cut off")] * 12, 3),
    ([Refused("the number is not in use", own=True)] * 12, 10),
    ([Refused("the number is not in use", own=True)] * 9 + [None] * 3, None),
    ([Refused("x", True), Refused("x", True), None] * 4, None),
    ([Refused("x", True), Refused("y", True)] * 6, None),
    ([Refused("x", True), Refused("x", True), [Unavailable("away"), Refused("x", True)]] * 4, 3),
]


@pytest.mark.parametrize(("answers", "before_the_pause"), ROW_OF_FAILURES)
def test_rows_that_fail_alike_one_after_the_other_pause_the_round(tmp_path, answers, before_the_pause):
    world = World(tmp_path, rows=12)
    for number, answer in zip(world.numbers, answers, strict=True):
        world.carrier.answers[number] = list(answer) if isinstance(answer, list) else [answer] if answer else []
    world.run(2_000)
    failed = sum(mark in {"Failed", "Unsure"} for mark in world.marks())
    if before_the_pause is None:
        assert world.round().stage == Stage.FINISHED
    else:
        assert (world.round().stage, failed) == (Stage.PAUSED, before_the_pause)
        reason = "no answer" if isinstance(answers[0], Silent) else answers[0].reason
        assert (
            world.round().note == f'rows failed one after the other with "{reason}", which may not be their own fault'
        )
        stage(world, Stage.SENDING)
        world.sender.act()
        assert world.round().stage == Stage.SENDING


def test_rows_that_failed_before_somebody_paused_are_not_counted_after(world):
    world.carrier.answers = {number: [Refused("x", True)] for number in world.numbers}
    world.run(10)
    assert world.marks() == ["Failed", "Failed", "To go"]
    stage(world, Stage.PAUSED)
    world.sender.act()
    stage(world, Stage.SENDING)
    world.run()
    assert (world.marks(), world.round().stage) == (["Failed"] * 3, Stage.FINISHED)


@pytest.mark.parametrize("ended", [Stage.STOPPED, Stage.FINISHED, Stage.PAUSED])
def test_the_programs_own_pause_changes_only_a_round_that_sends(world, ended):
    """The third row fails alike while somebody ends the round: it stays as it was ended."""
    for number in world.numbers:
        world.carrier.answers[number] = [Refused("x", True)]
    world.run(12)
    hand_over = world.carrier.hand_over

    def meanwhile(*args):
        stage(world, ended)
        return hand_over(*args)

    world.carrier.hand_over = meanwhile
    world.run(100)
    assert world.marks() == ["Failed"] * 3
    assert (world.round().stage, world.round().note) == (ended, "")


def test_a_second_try_waits_for_the_answer_about_the_first(world):
    """Asked about the first try the carrier is silent: nothing is handed over, no row is marked, and it is waited."""
    world.carrier.answers[world.numbers[0]] = [Refused("x", may_retry=True)]
    world.run()
    assert try_again(world) == 1
    world.carrier.deaf = True
    handed_over = len(world.carrier.left_at)
    world.run(600)
    assert world.marks()[0] == "To go"
    assert len(world.carrier.left_at) == handed_over
    assert world.sender.away.failures > 3
    world.carrier.deaf = False
    world.run()
    assert world.marks() == ["Sent"] * 3


@pytest.mark.parametrize(
    ("answer", "marks"),
    [
        # what the first line's carrier answered, and the marks once another line has taken over
        (Silent("no answer"), ["Unsure", "Sent", "Sent"]),
        (Unavailable("trouble", perhaps_taken=True), ["Unsure", "Sent", "Sent"]),
        (Unavailable("cannot be reached"), ["Sent"] * 3),
        (Refused("x", may_retry=True), ["Failed", "Sent", "Sent"]),
    ],
)
def test_another_lines_no_record_says_nothing_of_a_try_by_this_one(world, answer, marks):
    """Sender or carrier were set anew while nobody could say whether a text went: it is not sent by the new one."""
    world.carrier.answers[world.numbers[0]] = [answer]
    world.sender.act()
    before = world.carrier
    world.carrier = CountingCarrier(world.clock)
    world.carrier.identity = "Quay Office at another carrier"
    world.start()
    world.run(3_000)
    assert world.marks() == marks
    assert (world.numbers[0] in dict(world.carrier.arrived)) == (marks[0] == "Sent")
    if isinstance(answer, Unavailable) and marks[0] == "Unsure":
        assert (world.message(1).reason, world.message(1).uncertain) == (OTHER_LINE().sentence, True)
    if marks[0] == "Unsure":
        # Set back again, the first one is asked, and can tell.
        before.known[world.message(1).reference] = Accepted("late")
        world.carrier = before
        world.start()
        world.run(3_000)
        assert world.marks()[0] == "Sent"
    elif marks[0] == "Failed":
        assert try_again(world) == 1
        world.run()
        assert world.marks() == ["Sent"] * 3
        assert len(set(before.references + world.carrier.references)) == 4


def test_a_row_that_was_interrupted_on_another_line_is_unsure_and_says_why(world):
    with dying_after(world, 4):
        world.run()
    assert world.marks()[0] == "Going"
    world.carrier = CountingCarrier(world.clock)
    world.carrier.identity = "Quay Office at another carrier"
    world.start()
    world.run(500)
    assert (world.marks()[0], world.message(1).reason) == ("Unsure", OTHER_LINE().sentence)
    assert world.numbers[0] not in dict(world.carrier.arrived)


def test_what_was_asked_before_the_settling_time_is_no_proof_when_it_is_answered_after(world):
    world.carrier.answers[world.numbers[0]] = [Silent("no answer")]
    ask, slow = world.carrier.ask, []

    def ask_slowly(reference):
        answer = ask(reference)
        if slow:
            world.clock.passed += 100
        return answer

    world.carrier.ask = ask_slowly
    world.sender.act()
    slow.append(True)
    world.clock.passed += 1
    world.sender.act()
    assert world.marks()[0] == "Unsure"


def test_stop_says_of_a_first_try_that_may_have_gone_that_it_is_unsure(world):
    world.carrier.answers[world.numbers[0]] = [Unavailable("trouble", perhaps_taken=True)]
    world.sender.act()
    with world.database.writing() as session:
        assert leave_some_out(statements_of(session), world.round_id, world.clock.now())
        session.get_one(Round, world.round_id).stage = Stage.STOPPED
    assert world.marks() == ["Unsure", "Left out", "Left out"]
    world.run()
    assert world.marks() == ["Failed", "Left out", "Left out"]


def test_asking_at_a_persons_wish_is_done_by_the_sender(world):
    world.carrier.answers[world.numbers[0]] = ["lost"]
    world.carrier.deaf = True
    world.run(500)
    world.carrier.deaf = False
    asked = len(world.carrier.asked_at)
    assert world.sender.act() != Send()
    with world.database.writing() as session:
        session.get_one(Round, world.round_id).ask_wanted = True
    assert (world.sender.act(), world.sender.act()) == (Send(), Send())
    assert len(world.carrier.asked_at) == asked + 1
    assert world.marks()[0] == "Sent"
    assert not world.round().ask_wanted


def test_the_wish_to_ask_is_for_the_rows_of_one_round(world):
    other = world.begin_round("506-555-01", 1)
    stage(world, Stage.PAUSED)
    for number in ("+15065550100", world.numbers[0]):
        world.carrier.answers[number] = [Silent("no answer")]
    for round_id in (other, world.round_id):
        world.round_id = round_id
        stage(world, Stage.SENDING)
        world.run(1)
        if world.round().stage == Stage.SENDING:
            stage(world, Stage.PAUSED)
        world.clock.passed += 8
    while world.sender.act() == Send():
        pass
    world.carrier.known = dict.fromkeys(world.carrier.references, Accepted("late"))
    with world.database.writing() as session:
        assert {found.round_id for found in with_mark(session, Mark.UNSURE)} == {world.round_id, other}
        session.get_one(Round, other).ask_wanted = True
    while world.sender.act() == Send():
        pass
    with world.database.reading() as session:
        assert {found.round_id for found in with_mark(session, Mark.UNSURE)} == {world.round_id}


def loop(world, looks: int) -> list[float]:
    """Runs the sender's own loop until it has waited so often, and gives the waits."""
    waits = []

    def wait(woken, seconds):
        assert woken is world.loop.woken
        waits.append(seconds)
        world.clock.passed += seconds
        if len(waits) == looks:
            world.loop.stop()

    world.clock.wait = wait
    world.loop.run()
    return waits


def test_the_loop_sleeps_until_the_next_text_may_leave_and_looks_once_a_second(world, tmp_path_factory):
    waits = loop(world, 25)
    assert world.carrier.left_at == [0, 8, 16]
    assert waits == [1] * 25
    world.begin_round("506-555-01", 2)
    world.start()
    world.sender._used._draw = lambda: -0.75
    before = world.clock.passed
    waits = loop(world, 30)
    assert world.carrier.left_at[3:] == [before + 8, before + 16.5]
    assert waits == [1] * 16 + [0.5] + [1] * 13
    quick = World(tmp_path_factory.mktemp("quick"), pace=PaceSettings(every=0.5))
    assert loop(quick, 3) == [0.5, 0.5, 1]
    assert quick.marks() == ["Sent"] * 3


def test_the_loop_of_a_sender_without_the_lock_hands_nothing_over(world):
    world.sender.give_back()
    first = Loop(Sender(world.database, world.carrier, world.clock))
    assert first.take_turn()
    assert loop(world, 20) == [0.1] * 20, "it stands by"
    assert world.carrier.left_at == []
    first.release_turn()
    world.start()
    loop(world, 20)
    assert world.marks() == ["Sent"] * 3


def test_trouble_in_the_loop_is_said_once_and_looked_at_after_growing_waits(world, caplog):
    said, fails = [], iter([False, True, True, True, True, True, True, False, True, True])
    world.bell_rings(said)

    def act():
        if next(fails):
            raise OperationalError("INSERT", {}, Exception("database or disk is full"))

    world.sender.act = act
    waits = loop(world, 10)
    assert waits == [1, 1, 2, 4, 8, 10, 10, 1, 1, 2]
    full = "The disk is full, so nothing can be written down. Make room on it; nothing is lost."
    assert said == [full, "", full]
    assert [record.exc_info[0] for record in caplog.records] == [OperationalError] * 2
    assert not world.loop.has_the_turn


def attempts(world, row):
    with world.database.reading() as session:
        return attempts_of(session, world.message(row).id)


def test_each_hand_over_is_an_attempt_with_what_the_carrier_said(world):
    late, busy = world.numbers[0], world.numbers[1]
    world.carrier.answers[late] = [Silent("no answer")]
    world.carrier.answers[busy] = [Unavailable("busy", 5), Refused("blocked", own=True, code="POL1011")]
    world.run(600)
    first, second, third = (attempts(world, row) for row in (1, 2, 3))
    assert [(a.state, a.answer) for a in first] == [("no record", "")], "asked until that was proof"
    assert [(a.state, a.answer) for a in second] == [("not taken", "busy"), ("refused", "blocked")]
    assert [(a.state, a.carrier_id) for a in third] == [("accepted", third[0].reference)]
    assert {a.line_id for a in (*first, *second, *third)} == {1}
    assert third[0].answered_at >= third[0].at
    with pytest.raises(IntegrityError, match="belongs to another text"), world.database.writing() as session:
        begin_attempt(statements_of(session), world.message(2).id, 1, first[0].reference, START)
    with pytest.raises(IntegrityError, match="stays on record"), world.database.writing() as session:
        session.delete(session.get_one(Attempt, first[0].id))


def test_what_was_taken_stays_so_whatever_is_said_of_it_later(world):
    world.carrier.answers[world.numbers[0]] = ["lost"]
    world.run(100)
    (first,) = attempts(world, 1)
    assert (first.state, first.carrier_id) == ("accepted", first.reference)
    with world.database.writing() as session:
        settle_attempt(statements_of(session), first.message_id, first.reference, AttemptState.NO_RECORD, START)
    assert attempts(world, 1)[0].state == "accepted"


def test_a_line_that_cannot_be_asked_leaves_open_what_may_have_gone_and_goes_on(world):
    world.carrier.can_be_asked = False
    world.carrier.answers[world.numbers[0]] = [Silent("no answer")]
    world.run(2_000)
    assert world.marks() == ["Unsure", "Sent", "Sent"]
    assert world.carrier.asked_at == []
    assert world.sender.away is None, "a carrier that cannot be asked is not away for that"


def test_a_line_that_cannot_be_asked_tries_again_what_was_refused_and_never_what_may_have_gone(world):
    world.carrier.can_be_asked = False
    first, second = world.numbers[:2]
    world.carrier.answers[first] = [Refused("busy", may_retry=True)]
    world.carrier.answers[second] = [Unavailable("500", perhaps_taken=True)]
    world.run(2_000)
    assert world.marks() == ["Failed", "Unsure", "Sent"]
    assert world.message(2).reason == CANNOT_BE_ASKED().sentence
    assert try_again(world) == 1
    world.run(2_000)
    assert world.marks() == ["Sent", "Unsure", "Sent"]
    assert len(world.carrier.references) == 4, "the second text is never handed over again"


def test_the_line_keeps_what_must_last(world):
    world.run(1)
    with world.database.reading() as session:
        line = session.get_one(LineRecord, 1)
    assert (line.identity, line.kind) == (world.carrier.identity, "counting")
    assert line.last_hand_over_at == START + timedelta(seconds=world.carrier.left_at[0])


def test_trying_again_takes_only_what_may_succeed_and_keeps_both_tries(world):
    world.carrier.answers[world.numbers[0]] = [Refused("not in use")]
    world.carrier.answers[world.numbers[1]] = [Refused("busy", may_retry=True)]
    world.run()
    assert try_again(world) == 1
    world.run()
    assert world.marks() == ["Failed", "Sent", "Sent"]
    history = entries(world, 2)
    assert [entry.mark for entry in history] == ["Going", "Failed", "To go", "Going", "Sent"]
    assert len({entry.reference for entry in history if entry.mark == "Going"}) == 1


@pytest.mark.parametrize("tells_repeats_apart", [True, False])
@pytest.mark.parametrize("late", [0, 1])
def test_a_try_that_arrived_late_is_found_before_the_next(world, late, tells_repeats_apart):
    """The carrier had no record after the settling time, and yet took the text: the next try does not send it."""
    world.carrier.tells_repeats_apart = tells_repeats_apart
    world.carrier.answers[world.numbers[0]] = [Silent("no answer")] * 2
    world.run()
    assert try_again(world) == 1
    world.run()
    handed_over = [entry.reference for entry in entries(world, 1) if entry.mark == "Going"]
    assert len(set(handed_over)) == (1 if tells_repeats_apart else 2)
    world.carrier.known[handed_over[late]] = Accepted("late")
    world.carrier.arrived.append((world.numbers[0], "Hello P0"))
    assert try_again(world) == 1
    world.run()
    found = world.message(1)
    assert (found.mark, found.reason, found.reference) == ("Sent", GONE_BEFORE().sentence, handed_over[late])
    assert Counter(world.carrier.arrived).most_common(1)[0][1] == 1


@pytest.mark.parametrize(
    ("answer", "deaf", "mark", "reason"),
    [
        ("lost", False, "Sent", ""),
        (Silent("x"), False, "Unsure", NOT_YET().sentence),
        ("lost", True, "Unsure", CANNOT_SAY().sentence),
    ],
    ids=["it went", "it did not", "no answer"],
)
def test_what_was_interrupted_is_asked_about_at_once(world, answer, deaf, mark, reason):
    world.carrier.answers[world.numbers[0]] = [answer]
    with dying_after(world, 5):
        world.run()
    assert world.marks()[0] == "Going"
    world.carrier.deaf = deaf
    world.start()
    world.sender.act()
    assert (world.marks()[0], world.message(1).reason) == (mark, reason)


def test_a_carrier_that_asked_to_be_left_alone_is_not_asked_about_what_was_interrupted(world):
    world.carrier.answers[world.numbers[0]] = [Unavailable("busy", 60), "lost"]
    world.sender.act()
    world.clock.passed += 60
    with dying_after(world, 7):
        world.run()
    assert world.marks()[0] == "Going"
    world.start()
    at, asked = world.clock.passed, len(world.carrier.asked_at)
    world.sender.act()
    assert (world.marks()[0], world.message(1).reason) == ("Unsure", CANNOT_SAY().sentence)
    world.run()
    assert world.carrier.asked_at[asked] - at >= 60
    assert world.marks() == ["Sent"] * 3


def test_pause_keeps_the_gap_and_stop_ends(world):
    world.sender.act()
    stage(world, Stage.PAUSED)
    world.clock.passed += 3
    assert world.sender.act() is None
    stage(world, Stage.SENDING)
    world.run()
    gaps = [b - a for a, b in pairwise(world.carrier.left_at)]
    assert all(gap >= 8 for gap in gaps)


def test_a_restart_waits_one_whole_gap(world):
    world.sender.act()
    world.clock.passed += 100
    world.start()
    world.sender.act()
    assert len(world.carrier.left_at) == 1
    world.clock.passed += 8
    world.sender.act()
    assert len(world.carrier.left_at) == 2


TROUBLES = ["", "lost", "silent", "busy", "broken", "lying", "deaf"]


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
    answers = {
        "lost": ["lost"],
        "silent": [Silent("x")],
        "busy": [Unavailable("busy", 5)],
        "broken": [Unavailable("500", perhaps_taken=True)],
        "lying": ["taken, but 500"],
    }
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
    assert set(world.marks()) <= {"Sent", "Failed"}
    arrived = {number for number, _ in world.carrier.arrived}
    for message in world.messages():
        assert (message.mark == "Sent") == (message.address in arrived)
    while try_again(world):
        world.run()
    assert world.marks() == ["Sent"] * 3
    assert Counter(world.carrier.arrived) == Counter((n, f"Hello P{i}") for i, n in enumerate(world.numbers))


def test_only_one_sender(world):
    second = Loop(Sender(world.database, world.carrier, world.clock))
    assert world.loop.take_turn()
    assert not second.take_turn()
    world.loop.release_turn()
    assert second.take_turn()
    second.release_turn()


@pytest.mark.parametrize(("answer", "wait"), [(Accepted("taken"), 8), (Unavailable("busy", 600), 600)])
def test_a_process_that_takes_over_waits_as_the_one_before_it_had_to(world, answer, wait):
    """It began before anything went; when the other one ends, nobody can say how long ago its last text left."""
    second = Loop(Sender(world.database, world.carrier, world.clock, draw=lambda: -1.0))
    world.carrier.answers[world.numbers[0]] = [answer]
    assert world.loop.take_turn()
    world.sender.act()
    world.clock.passed += 100
    world.loop.release_turn()
    assert second.take_turn()
    assert second.sender.act().until == 100 + wait
    assert len(world.carrier.left_at) == 1
    second.release_turn()


def test_stop_ends_a_rest_at_once(world):
    world.clock.wait = lambda woken, _seconds: (world.loop.stop(), seen.append(woken.is_set()))
    seen = []
    world.loop.run()
    assert seen == [True]


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
