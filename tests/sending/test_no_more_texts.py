"""Who asks for no more texts while a round is sent gets none, and what may have gone is not called left out."""

from datetime import date

import pytest

from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.models import Message, NoMoreTexts
from gentle_ledger.store.no_more_texts import note, take_off
from tests.sending.world import START, World


@pytest.fixture
def world(tmp_path):
    return World(tmp_path)


def put_on_list(world, number):
    """As it stands when the number was noted while its text was on its way."""
    with world.database.writing() as session:
        session.add(NoMoreTexts(number=number, asked_on=date(2026, 11, 24), how="", noted_at=START))


def test_a_text_that_comes_back_to_its_turn_gives_way_and_the_others_go(world):
    put_on_list(world, world.numbers[1])
    world.run()
    assert world.marks() == ["Sent", "Left out", "Sent"]
    assert world.message(2).reason == "asked for no more texts before this one went"
    assert [number for number, _ in world.carrier.arrived] == [world.numbers[0], world.numbers[2]]
    assert world.round().stage == "finished"


def test_one_whose_first_try_may_have_gone_is_unsure_and_not_left_out(world):
    with world.database.writing() as session:
        message = session.get_one(Message, world.message(1).id)
        message.uncertain = True
        session.flush()
        assert note(session, world.numbers[0], date(2026, 11, 24), "by phone", START)[1] == 1
    assert (world.message(1).mark, world.message(2).mark) == (Mark.UNSURE, Mark.TO_GO)


def test_who_is_taken_off_the_list_is_texted_again_but_not_in_a_round_that_left_it_out(world):
    with world.database.writing() as session:
        entry, _ = note(session, world.numbers[0], date(2026, 11, 24), "", START)
        take_off(session, entry.id, START)
    world.run()
    assert world.marks() == ["Left out", "Sent", "Sent"]
