"""The turn of a line: whoever lost it writes nothing more, and one that was held up looks again before the call."""

from collections import Counter
from datetime import timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.exc import OperationalError

from gentle_ledger.core.recipe.kept import kept_recipe
from gentle_ledger.core.recipe.pace import HoursSettings
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending import loop as loops
from gentle_ledger.sending.loop import Loop
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store import database as opened
from gentle_ledger.store import presence
from gentle_ledger.store.attempts import attempts_of
from gentle_ledger.store.models import Round
from gentle_ledger.store.presence import Presence, heard, say, trouble_of_sender
from gentle_ledger.store.processes import Seen
from gentle_ledger.store.rounds import recipe_of
from gentle_ledger.store.senders import TurnLost, take_turn, turn_of
from tests.sending.world import START, Accepted, Silent, World, at_each_touch


@pytest.fixture
def world(tmp_path):
    return World(tmp_path)


def another(world):
    return Sender(world.database, world.carrier, world.clock, draw=lambda: -1.0)


def run(world, sender, times=400):
    for _ in range(times):
        if sender.act() is None:
            break
        world.clock.passed += 5


def test_whoever_lost_the_turn_writes_and_sends_nothing_more(world):
    first, second = world.sender, another(world)
    first.act()
    second.begin()
    world.clock.passed += 100
    with pytest.raises(TurnLost):
        first.act()
    assert len(world.carrier.left_at) == 1
    run(world, second)
    assert world.marks() == ["Sent"] * 3
    assert max(Counter(world.carrier.arrived).values()) == 1


def test_a_turn_only_grows_and_is_taken_from_whoever_is_known_to_have_had_it(world):
    with world.database.writing_bare() as ledger:
        before = turn_of(ledger, 1)
        mine = take_turn(ledger, before, "me", "")
        assert mine.turn == before.turn + 1
        with pytest.raises(TurnLost):
            take_turn(ledger, before, "too late", "")
    with pytest.raises(Exception, match="only grows"), world.database.writing() as session:
        session.execute(text("UPDATE senders SET turn = 1"))


def stalled(world, at, meanwhile):
    """A few acts of the sender, which stands still at its nth touch of the outside while something happens."""
    left, done = at, []

    def touch():
        nonlocal left
        left -= 1
        if left == -1:
            done.append(True)
            meanwhile()

    try:
        with at_each_touch(world, touch):
            for _ in range(4):
                world.sender.act()
                world.clock.passed += 11
    except TurnLost:
        pass
    return bool(done)


@pytest.mark.parametrize("apart", [True, False], ids=["tells repeats apart", "takes repeats"])
@pytest.mark.parametrize("ended", [True, False], ids=["ended first", "cannot be ended"])
@pytest.mark.parametrize("lost", [True, False], ids=["answers lost", "answers come"])
def test_a_sender_that_stands_still_at_any_step_and_wakes_up(tmp_path_factory, monkeypatch, apart, ended, lost):
    """Stopped at each touch of the outside, replaced meanwhile, and going on where it was: nobody is texted twice."""
    monkeypatch.setattr(opened, "BUSY_MS", 20)
    for at in range(200):
        world = World(tmp_path_factory.mktemp("stall"), rows=2)
        world.carrier.tells_repeats_apart = apart
        if lost:
            world.carrier.answers[world.numbers[0]] = ["lost"]
        woken = world.sender

        class Ended(BaseException):
            pass

        def replaced(world=world, at=at):
            world.clock.passed += 20
            second = another(world)
            try:
                second.begin(may_still_run=not ended)
            except OperationalError:
                # It stands still with the ledger in its hands: whoever wants the turn has to wait.
                if ended:
                    raise Ended from None
                return
            world.second = second
            run(world, second)
            if ended:
                raise Ended

        world.second = None
        try:
            stood = stalled(world, at, replaced)
        except Ended:
            stood = True
        if not stood:
            assert at > 8
            break
        assert woken is world.sender
        run(world, world.second or another(world))
        arrived = Counter(world.carrier.arrived)
        assert not arrived or max(arrived.values()) == 1, at
        for mark, number in zip(world.marks(), world.numbers, strict=True):
            came = any(to == number for to, _ in arrived)
            assert mark in {"Sent", "Unsure", "Failed"}, (at, world.marks())
            assert came or mark != "Sent", (at, world.marks())
            assert not came or mark in {"Sent", "Unsure"}, (at, world.marks())


def closes_at_noon(world):
    """Hours that close a minute after the world's beginning, by the office's clocks."""
    hours = HoursSettings(opens="09:00", closes="12:01", where="office")
    change(world, lambda pace: pace.model_copy(update={"hours": hours}))


def change(world, how):
    with world.database.writing() as session:
        found = session.get_one(Round, world.round_id)
        recipe = recipe_of(found)
        found.recipe = kept_recipe(recipe.model_copy(update={"pace": how(recipe.pace)}))


def pause(world):
    with world.database.writing() as session:
        session.get_one(Round, world.round_id).stage = Stage.PAUSED


def late(seconds):
    def pass_by(world):
        world.clock.passed += seconds

    return pass_by


LATER = (START + timedelta(days=3)).replace(tzinfo=None)
MEANWHILE = [
    # what happens while it waits for the lock, or between the commit and the call; whether the text still goes
    ("nothing", lambda world: None, True),
    ("a short wait", late(5), True),
    ("the hours closed", late(61), False),
    ("somebody paused it", pause, False),
    ("a cap was set", lambda world: change(world, lambda pace: pace.model_copy(update={"per_day": (1,)})), True),
    ("a beginning was set", lambda world: change(world, lambda p: p.model_copy(update={"start": LATER})), False),
]


@pytest.mark.parametrize(("_what", "happens", "goes"), MEANWHILE, ids=[case[0] for case in MEANWHILE])
def test_what_lets_a_text_go_is_looked_at_once_the_lock_is_there(world, _what, happens, goes):
    closes_at_noon(world)
    bare, left = world.database.writing_bare, [True]

    def waits(**how):
        if left:
            left.pop()
            happens(world)
        return bare(**how)

    world.database.writing_bare = waits
    world.sender.act()
    assert len(world.carrier.arrived) == goes
    assert world.marks()[0] == ("Sent" if goes else "To go")


@pytest.mark.parametrize(("_what", "happens", "goes"), MEANWHILE, ids=[case[0] for case in MEANWHILE])
def test_one_that_was_held_up_looks_again_right_before_the_call(world, _what, happens, goes):
    closes_at_noon(world)
    tell, left = world.sender._texts._tell, [True]

    def held_up():
        if left and world.marks()[0] == "Going":
            left.pop()
            happens(world)
            world.clock.passed += 0.5
        tell()

    world.sender._texts._tell = held_up
    world.sender.act()
    assert len(world.carrier.arrived) == goes
    assert world.marks()[0] == ("Sent" if goes else "To go")
    if not goes:
        with world.database.reading() as session:
            assert [attempt.state for attempt in attempts_of(session, 1)] == ["not taken"]
        assert (world.message(1).tries, world.message(1).uncertain) == (0, False)


def test_one_that_was_held_up_and_replaced_hands_nothing_over(world):
    tell = world.sender._texts._tell

    def held_up():
        if world.marks()[0] == "Going":
            world.clock.passed += 60
            another(world).begin()
        tell()

    world.sender._texts._tell = held_up
    with pytest.raises(TurnLost):
        world.sender.act()
    assert world.carrier.left_at == []


@pytest.fixture
def process(monkeypatch):
    """How the process of the turn is seen, and what becomes of it."""
    state = {"seen": Seen.RUNS, "silent": 0.0, "ends": True, "ended": [], "disk": True}
    monkeypatch.setattr(loops, "seen", lambda name: state["seen"] if name else Seen.GONE)
    monkeypatch.setattr(loops, "silent_for", lambda path, turn: state["silent"])
    monkeypatch.setattr(loops, "can_be_said", lambda path: state["disk"])
    monkeypatch.setattr(loops, "end_surely", lambda name: state["ended"].append(name) or state["ends"])
    return state


STANDING = [
    # how the one with the turn is seen, silent for, its disk takes words; taken over, ended, may still run
    (Seen.RUNS, 0.0, True, False, False, None),
    (Seen.RUNS, 9.0, True, False, False, None),
    (Seen.RUNS, 11.0, True, True, True, False),
    (Seen.RUNS, 11.0, False, False, False, None),
    (Seen.STOPPED, 9.0, True, False, False, None),
    (Seen.STOPPED, 11.0, False, True, True, False),
    (Seen.GONE, 0.0, True, True, False, False),
    (Seen.ELSEWHERE, 99.0, True, False, False, None),
]


@pytest.mark.parametrize(("place", "silent", "disk", "taken", "ended", "may_run"), STANDING)
def test_who_takes_over(world, process, place, silent, disk, taken, ended, may_run):
    holder = world.sender.process
    process |= {"seen": place, "silent": silent, "disk": disk}
    loop = Loop(another(world))
    assert loop.take_turn() is taken
    assert process["ended"] == ([holder] if ended else [])
    if may_run is not None:
        with world.database.reading_bare() as ledger:
            assert ledger.first("SELECT count(*) FROM attempts WHERE beyond_proof")[0] == int(may_run)


def test_one_that_cannot_be_ended_leaves_what_it_had_in_hand_beyond_proof(world, process):
    world.carrier.answers[world.numbers[0]] = [Silent("no answer")]
    with world.database.writing_bare() as ledger:
        ledger.run("UPDATE messages SET mark = 'Going', uncertain = 1, reference = 'r' WHERE row = 1")
        ledger.run(
            "INSERT INTO attempts (message_id, line_id, reference, at, state, carrier_id, answer, beyond_proof) "
            "VALUES (1, 1, 'r', '2026-11-24T12:00:00.000000+00:00', 'going', '', '', 0)"
        )
    process |= {"silent": 11.0, "ends": False}
    loop = Loop(another(world))
    assert loop.take_turn()
    run(world, loop.sender, 2_000)
    assert world.marks() == ["Unsure", "Sent", "Sent"], "no record proves nothing of it"
    world.carrier.known["r"] = Accepted("late")
    world.clock.passed += 400
    run(world, loop.sender)
    assert world.marks() == ["Sent"] * 3


def test_one_elsewhere_is_taken_for_gone_after_half_a_minute_without_a_word(world, process, monkeypatch):
    now = [1_000.0]
    monkeypatch.setattr(loops.time, "monotonic", lambda: now[0])
    process["seen"] = Seen.ELSEWHERE
    loop = Loop(another(world))
    assert not loop.take_turn()
    now[0] += 29
    assert not loop.take_turn()
    say(world.database.path, 1, Presence("elsewhere", 1, 0.0))
    assert not loop.take_turn(), "it said something"
    now[0] += 31
    assert loop.take_turn()
    assert process["ended"] == []


def test_one_that_hangs_without_its_file_is_replaced_as_well(world, process, monkeypatch):
    now, holder = [1_000.0], world.sender.process
    monkeypatch.setattr(loops.time, "monotonic", lambda: now[0])
    loop = Loop(another(world))
    assert not loop.take_turn()
    now[0] += 9
    say(world.database.path, 1, Presence(holder, world.sender.database.mine.turn, 0.0))
    assert not loop.take_turn(), "it said something"
    presence._file_of(world.database.path, 1).unlink()
    assert not loop.take_turn()
    now[0] += 11
    assert loop.take_turn()
    assert process["ended"] == [holder]


def test_one_that_could_not_take_the_turn_says_nothing_once_another_has_it(world, monkeypatch):
    world.sender.give_back()
    second = Loop(another(world))

    def locked(*_before, **_more):
        raise OperationalError("BEGIN", {}, Exception("database is locked"))

    monkeypatch.setattr(second.sender, "begin", locked)
    with pytest.raises(OperationalError):
        second.take_turn()
    assert second._next is not None, "it can say why"
    third = Loop(another(world))
    assert third.take_turn()
    assert not second.take_turn()
    second._say_present()
    assert heard(world.database.path, 1).process == third.sender.process


def test_what_hinders_a_sender_is_said_beside_the_ledger_and_since_when(world, monkeypatch):
    path, turn = world.database.path, world.sender.database.mine
    world.loop._say("The disk is full.", OSError())
    said = trouble_of_sender(path, turn)
    assert (said.reason, said.since) == ("The disk is full.", world.clock.now())
    world.loop._say("")
    assert trouble_of_sender(path, turn).reason == ""
    world.sender.database.waits_since = loops.time.monotonic() - 3
    world.loop._say_present()
    assert "is locked" in trouble_of_sender(path, turn).reason
    heard_at = heard(path, 1).beat
    monkeypatch.setattr(presence.time, "monotonic", lambda: heard_at + 6)
    assert "does not say anything" in trouble_of_sender(path, turn).reason
    monkeypatch.setattr(presence, "seen", lambda _name: Seen.GONE)
    assert trouble_of_sender(path, turn).reason == "", "one that is gone is another matter"
