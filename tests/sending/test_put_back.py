"""A copy of the ledger that is put back, copied or moved: it asks first, and nobody is texted twice."""

import shutil
from collections import Counter

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.app.commands.sending import look_first
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.references import reference_of_text, reference_of_trial
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending import sender as sending
from gentle_ledger.sending.loop import Loop
from gentle_ledger.sending.verdicts import FORGOTTEN, OTHER_LINE
from gentle_ledger.store import put_back as stored
from gentle_ledger.store.attempts import AttemptState, attempts_of
from gentle_ledger.store.beside import CopySends
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.messages import again, with_mark
from gentle_ledger.store.models import Message, Round, ThisLedger, Trial, UnknownHandOver
from gentle_ledger.store.notices import open_notices
from gentle_ledger.store.stages import step_stage
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.steps import settle_by_hand
from gentle_ledger.store.trials import ask_for_trial
from gentle_ledger.store.witness import NoWitness, file_beside
from tests.sending.world import START, Crash, Unavailable, World


@pytest.fixture
def world(tmp_path):
    return World(tmp_path, rows=6, witnessed=True)


def sent(world, texts):
    """Runs until so many have arrived."""
    while len(world.carrier.arrived) < texts:
        world.sender.act()
        world.clock.passed += 1


def go_on(world, *, looked=True):
    with world.database.writing() as session:
        found = session.get_one(Round, world.round_id)
        look_first(found, looked=looked)
        step_stage(found, Stage.SENDING)


def once_each(world):
    return max(Counter(world.carrier.arrived).values()) == 1


def never_sends(world, why):
    """One that could not begin goes on asking, and hands nothing over whatever is tried next."""
    arrived, loop = len(world.carrier.arrived), Loop(world.sender)
    for tried in (loop.take_turn, world.sender.act, loop.take_turn, world.sender.act):
        with pytest.raises(why):
            tried()
        assert not loop.has_the_turn
        world.clock.passed += 60
    assert len(world.carrier.arrived) == arrived


WAYS = {
    "the file alone": lambda world, folder: None,
    "the whole folder": lambda world, folder: shutil.copy(folder / "beside", file_beside(world.database.path)),
    "without the one in the state folder": lambda world, folder: shutil.rmtree(world.state),
}


@pytest.mark.parametrize("way", WAYS)
def test_a_copy_put_back_asks_about_what_went_and_sends_nothing_before_a_look(world, tmp_path, way):
    sent(world, 2)
    copy = world.copy(tmp_path / "copy")
    shutil.copy(file_beside(world.database.path), tmp_path / "beside")
    sent(world, 5)
    WAYS[way](world, tmp_path)
    world.put_back(copy)
    asked = len(world.carrier.asked_at)
    assert (world.round().stage, "put back" in world.round().look_first) == (Stage.PAUSED, True)
    assert world.marks() == ["Sent"] * 2 + ["Unsure"] * 3 + ["To go"]
    world.run(3_000)
    assert len(world.carrier.arrived) == 5, "nothing goes by itself"
    assert len(world.carrier.asked_at) == asked + 3
    assert world.marks() == ["Sent"] * 5 + ["To go"]
    with pytest.raises(NotNow, match="Say that you have looked"):
        go_on(world, looked=False)
    go_on(world)
    world.run()
    assert world.marks() == ["Sent"] * 6
    assert once_each(world)


def test_a_copy_that_lacks_nothing_goes_on_by_itself(world, tmp_path):
    """The near miss: a copy of just now, a restart, and a ledger that was moved on the same machine."""
    sent(world, 2)
    world.put_back(world.copy(tmp_path / "copy"))
    assert (world.round().stage, world.round().look_first) == (Stage.SENDING, "")
    world.start()
    world.run()
    assert world.marks() == ["Sent"] * 6
    assert world.carrier.asked_at == [], "nothing was in doubt"


def test_a_copy_put_back_twice_asks_again_and_again(world, tmp_path):
    sent(world, 1)
    copy = world.copy(tmp_path / "copy")
    for texts in (3, 4, 6):
        sent(world, texts)
        world.put_back(copy)
        world.run(3_000)
        assert world.marks().count("Sent") == texts
        if texts < 6:
            go_on(world)
    assert once_each(world)


@pytest.mark.parametrize("can_be_asked", [True, False])
def test_what_nobody_can_say_is_unsure_and_settled_by_hand(world, tmp_path, can_be_asked):
    """The carrier forgot, or cannot be asked: "no record" proves nothing. Somebody looks, and says."""
    sent(world, 1)
    copy = world.copy(tmp_path / "copy")
    sent(world, 3)
    world.carrier.can_be_asked = can_be_asked
    world.carrier.known.clear()
    world.clock.passed += 3 * 24 * 3600
    world.put_back(copy)
    world.run(3_000)
    assert world.marks()[:3] == ["Sent", "Unsure", "Unsure"]
    if can_be_asked:
        assert world.message(2).reason == FORGOTTEN().sentence
    with world.database.writing() as session:
        unsure = with_mark(session, Mark.UNSURE, world.round_id)
        for text, went in zip(unsure, (True, False), strict=True):
            settle_by_hand(statements_of(session), text, world.clock.now(), "Ada says so", went=went)
    assert [(m.mark, m.reason, m.may_retry) for m in world.messages()[1:3]] == [
        ("Sent", "said by hand to have gone: Ada says so", False),
        ("Failed", "said by hand not to have gone: Ada says so", True),
    ]
    with world.database.reading() as session:
        assert [a.state for a in attempts_of(session, 3)] == [AttemptState.SAID_NOT]
    before = world.message(3).reference
    go_on(world)
    with world.database.writing() as session:
        again(session, session.get_one(Round, world.round_id), world.clock.now(), [session.get_one(Message, 3)], STOP)
    world.run()
    assert world.marks() == ["Sent"] * 6
    assert world.message(3).reference != before, "under a new reference"
    assert Counter(world.carrier.arrived)[world.numbers[2], "Hello P2"] == 2, "as somebody said that it had not"


STOP = stored.PUT_BACK()


def test_a_line_that_is_not_known_cannot_be_asked(world, tmp_path):
    sent(world, 1)
    copy = world.copy(tmp_path / "copy")
    world.carrier.identity = "another line"
    world.start()
    sent(world, 2)
    world.carrier.identity = "Quay Office at the quay"
    world.put_back(copy)
    world.run(3_000)
    assert (world.marks()[1], world.message(2).reason) == ("Unsure", OTHER_LINE().sentence)


def test_rows_that_were_ready_failed_or_left_out_in_the_copy_are_in_doubt_too(world, tmp_path):
    with world.database.writing() as session:
        for number, mark in ((2, "Failed"), (3, "Left out"), (4, "Held")):
            session.connection().exec_driver_sql("DROP TRIGGER IF EXISTS marks_step_only_as_allowed")
            session.get_one(Message, number).mark = mark
    copy = world.copy(tmp_path / "copy")
    with world.database.writing() as session:
        for number in (2, 3):
            session.get_one(Message, number).mark = "To go"
    sent(world, 5)
    world.put_back(copy)
    assert world.marks() == ["Unsure", "Unsure", "Unsure", "Held", "Unsure", "Unsure"]
    world.run(3_000)
    assert world.marks() == ["Sent", "Sent", "Sent", "Held", "Sent", "Sent"]


def test_a_round_that_the_copy_does_not_have_is_said_and_counts_for_the_cap(world, tmp_path):
    copy = world.copy(tmp_path / "copy")
    with world.database.writing() as session:
        step_stage(session.get_one(Round, world.round_id), Stage.PAUSED)
    world.begin_round("506-555-01", 3)
    sent(world, 3)
    world.put_back(copy)
    with world.database.reading() as session:
        ((_, _, sentence),) = open_notices(session)
        assert session.query(UnknownHandOver).count() == 3
    assert "3 texts went in rounds that it does not have" in sentence
    go_on(world)
    world.sender.act()
    assert world.sender._used.state.use.of_day == 3
    world.start()
    with world.database.reading() as session:
        assert len(open_notices(session)) == 1, "and is said once"


def test_one_that_is_cut_off_while_it_notes_what_it_lacks_says_it_all_the_same(world, tmp_path, monkeypatch):
    copy = world.copy(tmp_path / "copy")
    with world.database.writing() as session:
        step_stage(session.get_one(Round, world.round_id), Stage.PAUSED)
    world.begin_round("506-555-01", 3)
    sent(world, 3)
    doubt, left = stored._doubt, [True]

    def cut_off(*given):
        doubt(*given)
        if not left:
            raise Crash
        left.pop()

    monkeypatch.setattr(stored, "_AT_ONCE", 1)
    monkeypatch.setattr(stored, "_doubt", cut_off)
    with pytest.raises(Crash):
        world.put_back(copy)
    monkeypatch.setattr(stored, "_doubt", doubt)
    world.start()
    with world.database.reading() as session:
        assert "3 texts went in rounds" in open_notices(session)[0][2]
        assert session.query(UnknownHandOver).count() == 3


def test_another_machine_asks_and_asks_first_about_each_text(world, monkeypatch):
    sent(world, 2)
    # The other machine sends one more, from a copy of the folder: nobody here can know.
    with world.database.reading() as session:
        secret, uid = session.get_one(ThisLedger, 1).secret, session.get_one(Round, world.round_id).uid
    reference = reference_of_text(secret, uid, 3, world.numbers[2], "Hello P2", 0)
    world.carrier.hand_over(reference, world.numbers[2], "Hello P2")
    monkeypatch.setattr(sending, "this_machine", lambda: "another one")
    world.sender.give_back()
    world.start()
    assert (world.round().stage, "another machine" in world.round().look_first) == (Stage.PAUSED, True)
    world.run(3_000)
    assert len(world.carrier.arrived) == 3
    go_on(world)
    world.run()
    assert world.marks() == ["Sent"] * 6
    assert once_each(world)
    assert "a copy of this ledger" in world.message(3).reason


def test_another_machine_with_a_line_that_cannot_be_asked_sends_nothing(world, monkeypatch):
    sent(world, 2)
    world.carrier.can_be_asked = False
    monkeypatch.setattr(sending, "this_machine", lambda: "another one")
    world.sender.give_back()
    world.start()
    go_on(world)
    world.run(3_000)
    assert world.marks() == ["Sent"] * 2 + ["Unsure"] * 4
    assert len(world.carrier.arrived) == 2


def test_two_that_send_from_copies_at_once_find_out(world, tmp_path, monkeypatch):
    """Of the same user, so that both write to the one witness in the state folder."""
    sent(world, 1)
    other = World.__new__(World)
    other.__dict__.update(world.__dict__)
    (tmp_path / "other").mkdir()
    copy = world.copy(tmp_path / "other" / "ledger.sqlite3")
    other.database = stored.Database(copy)
    with pytest.raises(CopySends, match="A copy of this ledger is being sent from"):
        other.start()
    never_sends(other, CopySends)
    # Of another user of the machine nothing is seen but the witness, where that is shared.
    monkeypatch.setattr(sending, "claim_line", lambda *_: [])
    other.start()
    for each in (other, world, other, world, other, world):
        each.sender.act()
        world.clock.passed += 12
    assert once_each(world)
    assert Stage.PAUSED in {world.round().stage, other.round().stage}
    other.database.close()


@pytest.mark.parametrize("apart", [True, False])
def test_a_ledger_that_forgets_while_it_is_open_is_noticed_at_the_next_text(world, apart):
    """As when a copy is written over it in its place: the same file, with older pages in it."""
    world.carrier.tells_repeats_apart = apart
    sent(world, 2)
    with world.database.writing() as session:
        connection = session.connection().exec_driver_sql
        for trigger in ("marks_step_only_as_allowed", "attempts_no_delete", "ledger_no_delete", "messages_stay"):
            connection(f"DROP TRIGGER IF EXISTS {trigger}")
        connection("UPDATE messages SET mark = 'To go', reference = NULL, tries = 0 WHERE row = 1")
        connection("DELETE FROM attempts WHERE message_id = 1")
    world.run(3_000)
    assert once_each(world)
    assert len(world.carrier.arrived) == 2
    assert (world.round().stage, world.marks()[0]) == (Stage.PAUSED, "Sent")


def test_two_ledgers_that_send_by_one_number_are_said(world, tmp_path):
    (tmp_path / "other").mkdir()
    other = World(tmp_path / "other", witnessed=False)
    other.witnessed, other.state = True, world.state
    with other.database.writing() as session:
        session.get_one(ThisLedger, 1).identity = "another"
    other.carrier.identity = "Quay Office at another carrier"
    other.start()
    with other.database.reading() as session:
        assert [f"{world.database.path}" in sentence for _, _, sentence in open_notices(session)] == [True]
    other.run()
    assert other.marks() == ["Sent"] * 3, "it is said, and goes on"
    other.carrier.name = "Another name"
    other.state = world.state
    with other.database.writing() as session:
        session.connection().exec_driver_sql("DELETE FROM notices")
    other.start()
    with other.database.reading() as session:
        assert open_notices(session) == [], "by another number it is nobody's business"


def test_a_witness_that_cannot_be_written_keeps_everything_from_leaving(world):
    file, full = world.sender._witness._files[1], OSError(28, "No space left on device")
    adds = file.add

    def add(_line):
        raise full

    file.add = add
    for _ in range(3):
        with pytest.raises(NoWitness, match="No space left on device, so nothing is sent"):
            world.sender.act()
    assert (world.carrier.arrived, world.marks()) == ([], ["To go"] * 6), "and no row is lost by it"
    file.add = adds
    sent(world, 1)
    shutil.rmtree(world.state)
    world.state.write_text("a file in its place")
    world.sender.give_back()
    with pytest.raises(NoWitness, match="GENTLE_LEDGER_STATE"):
        world.start()
    never_sends(world, NoWitness)


def test_another_ledger_in_the_same_place_sends_nothing_before_a_look(world, tmp_path):
    sent(world, 2)
    other = World(tmp_path / "other", witnessed=True) if (tmp_path / "other").mkdir() is None else None
    with other.database.writing() as session:
        session.get_one(ThisLedger, 1).identity = "of another ledger"
    copy = other.copy(tmp_path / "copy")
    world.put_back(copy)
    assert (world.round().stage, "Another ledger" in world.round().look_first) == (Stage.PAUSED, True)


def test_a_trial_that_waits_in_a_copy_does_not_go(world, tmp_path):
    def ask(text):
        with world.database.writing() as session:
            ask_for_trial(session, world.round_id, 1, "+19025550199", text, 1, world.clock.now())

    ask("one")
    ask("two")
    copy = world.copy(tmp_path / "copy")
    while "one" not in {text for _, text in world.carrier.arrived}:
        world.sender.act()
        world.clock.passed += 1
    world.put_back(copy)
    go_on(world)
    world.run()
    with world.database.reading() as session:
        assert [(t.text, t.mark) for t in session.query(Trial)] == [("one", "Unsure"), ("two", "Failed")]
    assert [text for _, text in world.carrier.arrived].count("one") == 1
    assert "two" not in [text for _, text in world.carrier.arrived]


def test_a_copy_from_before_the_start_knows_what_went_once_it_is_started(tmp_path):
    world = World(tmp_path, rows=4, witnessed=True)
    with world.database.writing() as session:
        found = session.get_one(Round, world.round_id)
        assert stored.doubt_frozen(statements_of(session), found.id, found.uid, START) == 0
        for row in (2, 9):
            session.add(
                UnknownHandOver(round_uid=found.uid, row=row, reference=f"r{row}", at=world.clock.now(), line_key="k")
            )
        session.flush()
        stored.doubt_frozen(statements_of(session), found.id, found.uid, world.clock.now())
    assert world.marks() == ["To go", "Unsure", "To go", "To go"]
    world.run(3_000)
    assert world.numbers[1] not in dict(world.carrier.arrived)
    assert len(world.carrier.arrived) == 3


def test_a_second_try_under_the_same_reference_is_missed_as_well(world, tmp_path):
    """The witness names it twice, and the copy has one attempt: its row went again since."""
    world.carrier.answers[world.numbers[0]] = [Unavailable("trouble", perhaps_taken=True)]
    world.sender.act()
    copy = world.copy(tmp_path / "copy")
    sent(world, 6)
    reference = world.message(1).reference
    assert world.carrier.references.count(reference) == 2
    world.put_back(copy)
    with world.database.reading() as session:
        assert len(attempts_of(session, 1)) == 2
    world.run(3_000)
    go_on(world)
    world.run()
    assert world.marks() == ["Sent"] * 6
    assert once_each(world)


def test_a_cut_off_or_strange_witness_is_read_as_far_as_it_can_be(world, tmp_path):
    sent(world, 1)
    copy = world.copy(tmp_path / "copy")
    sent(world, 3)
    for path in (file_beside(world.database.path), *world.state.glob("*.handed-over")):
        lines = path.read_bytes().splitlines(keepends=True)
        path.write_bytes(b"".join(lines[:-1]) + b"\0\0\0\n" + b"text\tnot a moment\tk\tu\t1\tr\n" + lines[-1][:-5])
    world.put_back(copy)
    assert world.marks() == ["Sent", "Unsure"] + ["To go"] * 4, "the line that was cut off is lost"
    world.run(3_000)
    go_on(world)
    world.run()
    assert once_each(world), "and the carrier has the same reference"


PIECES = st.tuples(st.text(max_size=4), st.integers(1, 9), st.text(max_size=4), st.text(max_size=4), st.integers(0, 2))


@given(PIECES, PIECES, st.text("0123456789abcdef", min_size=2, max_size=4).map(lambda half: half + half))
def test_a_reference_is_the_same_for_the_same_text_and_for_no_other(one, other, secret):
    assert reference_of_text(secret, *one) == reference_of_text(secret, *one)
    assert (reference_of_text(secret, *one) == reference_of_text(secret, *other)) == (one == other)
    assert reference_of_text(f"ab{secret}", *one) != reference_of_text(f"ba{secret}", *one)


def test_no_piece_of_a_reference_runs_into_the_next():
    cut = [("u1", 1, "+1", "x"), ("u", 11, "+1", "x"), ("u1", 1, "+1x", ""), ("u1", 1, "", "+1x"), ("", 1, "u1+1", "x")]
    assert len({reference_of_text("ab", *pieces, 0) for pieces in cut}) == len(cut)
    assert reference_of_trial("ab", 1, "then", "+1", "x") != reference_of_text("ab", "1", 1, "+1", "x", 0)
