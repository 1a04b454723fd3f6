"""Rehearsals: the real rules a hundred times faster, to nobody, and nothing left behind."""

import threading

import pytest
from sqlalchemy import text

from gentle_ledger.carrier.rules import RULES, Answer
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.rehearsed import RehearsalStage
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.sending import rehearsal as rehearsal_module
from gentle_ledger.sending.lines import Accepted
from gentle_ledger.sending.rehearsal import Rehearsal, RehearsalRunner
from gentle_ledger.sending.stand_in import StandInLine
from gentle_ledger.store.errors import NotNow
from tests.sending.world import HandClock, World
from tests.servers import until

FATES = {
    Answer.NOT_IN_USE: Mark.FAILED,
    Answer.BLOCKED: Mark.FAILED,
    Answer.BUSY: Mark.SENT,
    Answer.NO_ANSWER: Mark.FAILED,
    Answer.ANSWER_LOST: Mark.SENT,
    Answer.ERROR_ONCE: Mark.FAILED,
}
"""What becomes of a text by the stand-in's published table (docs/carrier.md), once nothing is open any more."""


def rows_to(*numbers, every=10):
    sheet = Sheet(("Name", "Mobile"), [(f"P{i}", number) for i, number in enumerate(numbers)])
    recipe = Recipe(title="Dues", wording="Hello {Name}", pace=PaceSettings(every=every, give_or_take=0))
    return recipe, list(frozen_rows(compute_round(sheet, recipe), "UTC"))


def rehearsed(numbers, every=10):
    clock = HandClock()
    rehearsal = Rehearsal("Quay Office", *rows_to(*numbers, every=every), "seal", clock)
    while (rest := rehearsal.act()) is not None:
        clock.passed += rest / 100 + 1e-6
    return rehearsal.look(), clock


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.answer)
def test_fictional_numbers_get_the_answers_of_the_stand_in_s_table(rule):
    found, _ = rehearsed([f"902-555-01{rule.ending}", "902-555-0101"])
    assert found.marks == [FATES[rule.answer], Mark.SENT]
    assert found.stage is RehearsalStage.FINISHED
    failed = [1] if FATES[rule.answer] is Mark.FAILED else []
    assert [text.row for text in found.not_taken] == failed


def test_what_a_real_carrier_would_say_of_a_number_is_not_made_up():
    line = StandInLine("Quay Office")
    for number in ("+447700900190", "+447700900193", "+19025559990", "+1902555019000"):
        assert line.hand_over(number, number, "Hello") == Accepted(number)
    assert line.hand_over("r", "+19025550190", "Hello").own


def test_it_takes_a_hundredth_of_the_time_and_says_the_whole():
    found, clock = rehearsed([f"902-555-01{i:02}" for i in range(11)], every=60)
    assert found.lasted == pytest.approx(600, abs=1)
    assert clock.passed == pytest.approx(6, abs=0.01)


def counts(database):
    with database.reading() as session:
        tables = session.scalars(text("SELECT name FROM sqlite_master WHERE type = 'table'")).all()
        return {name: session.scalar(text(f"SELECT count(*) FROM {name}")) for name in sorted(tables)}


def test_nothing_of_it_stays_behind_but_that_it_was_rehearsed(tmp_path):
    world = World(tmp_path, rows=2)
    world.run()
    before, arrived = counts(world.database), list(world.carrier.arrived)
    runner = RehearsalRunner(world.database, "Quay Office", HandClock())
    runner.begin(world.round_id, *rows_to("902-555-0101", "902-555-0190"), "seal")
    until(lambda: runner.look(world.round_id).stage is RehearsalStage.FINISHED, "the rehearsal")
    assert counts(world.database) == {**before, "rehearsals": 1}
    assert world.carrier.arrived == arrived
    assert runner.look(world.round_id).outcome == "1 of 2 texts taken and 1 failed"
    assert runner.look(99) is None


def test_the_next_one_waits_until_what_came_of_the_last_is_written_down(tmp_path, monkeypatch):
    world, asked, may, kept = World(tmp_path), threading.Event(), threading.Event(), []

    def slowly(_session, round_id, *_more, **_rest):
        asked.set()
        may.wait(30)
        kept.append(round_id)

    monkeypatch.setattr(rehearsal_module, "keep_rehearsal", slowly)
    runner = RehearsalRunner(world.database, "Quay Office", HandClock())
    runner.begin(world.round_id, *rows_to("902-555-0101"), "seal")
    assert asked.wait(30)
    # Whoever sees its end finds the record of it, so there is no end before that.
    seen = runner.look(world.round_id)
    assert (seen.stage, seen.texts, kept) == (RehearsalStage.RUNNING, {Mark.SENT: 1}, [])
    threading.Timer(0.05, may.set).start()
    runner.begin(99, *rows_to("902-555-0101"), "seal")
    assert kept[0] == world.round_id
    runner.close()


class StandingClock(HandClock):
    """Never lets a wait end by itself."""

    def wait(self, woken, seconds):
        woken.wait(30)


def test_it_can_be_stopped_and_only_one_runs(tmp_path):
    world = World(tmp_path)
    runner = RehearsalRunner(world.database, "Quay Office", StandingClock())
    runner.begin(world.round_id, *rows_to("902-555-0101", "902-555-0102"), "seal")
    with pytest.raises(NotNow, match="running already"):
        runner.begin(world.round_id, *rows_to("902-555-0101"), "seal")
    runner.stop(99)
    assert runner.look(world.round_id).stage is RehearsalStage.RUNNING
    until(lambda: runner.look(world.round_id).texts.get(Mark.SENT) == 1, "the rehearsal")
    runner.stop(world.round_id)
    found = runner.look(world.round_id)
    assert (found.stage, found.outcome) == (RehearsalStage.STOPPED, "1 of 2 texts taken and 1 not reached")
    runner.begin(world.round_id, *rows_to("902-555-0101"), "seal")
    runner.close()


def test_it_pauses_by_itself_as_the_round_would():
    found, _ = rehearsed([f"902-555-0{i}95" for i in "1"] + ["506-555-0195", "709-555-0195", "902-555-0101"])
    assert found.stage is RehearsalStage.PAUSED
    assert "failed one after the other" in found.note
