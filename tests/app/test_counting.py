"""The counting process: what it gives back, what ends it, and what happens when it is gone."""

import io
import os
import pickle
import signal
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime
from pathlib import Path

import pytest

from gentle_ledger.app.commands.columns import Formula
from gentle_ledger.app.commands.rows import KeepRow, MendCell
from gentle_ledger.app.counting import process
from gentle_ledger.app.counting.at_hand import FileAtHand
from gentle_ledger.app.counting.client import Counting, NotCounted
from gentle_ledger.app.counting.jobs import (
    CountRows,
    FindWords,
    FreezeRows,
    GroupRows,
    LookAtRows,
    SortNumbers,
    TryOnAllRows,
)
from gentle_ledger.app.counting.messages import Outcome, Request
from gentle_ledger.app.counting.pool import Pool
from gentle_ledger.app.counting.reading_texts import LookBeforeSending
from gentle_ledger.app.edit import Editor
from gentle_ledger.app.faults import JobFailed
from gentle_ledger.app.numbers import batches_in
from gentle_ledger.app.open_rounds import RoundCache
from gentle_ledger.app.seal import seal_of, seal_of_frozen
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.app.superseded import Superseded
from gentle_ledger.app.trying import try_on_all_rows
from gentle_ledger.core.recipe.toml import recipe_from_toml
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows, those_to_go
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import CannotWrite
from gentle_ledger.store.rounds import add_round, round_of
from tests.bench.sheets import WORDING, as_csv
from tests.servers import until

AT = datetime(2026, 11, 26, tzinfo=UTC)
SHEET = b"""First name,Mobile,Berth,Due
Ines,902-555-0128,C14,186.40
,902-555-0111,C15,50
Bo,902-555-012,C16,9
Ines,902-555-0128,C17,13.60
Mia,902-555-0130,C18,twelve
Finn,506-555-0144,C19,0
"""
RECIPE = """
wording = "Hello {First name}, {Due} for {Berth}. {Late}"
region = "CA"
[columns.Late]
formula = "{Due} * 1.5%"
format = "money"
[[leave_out]]
when = "{Due} = 0"
reason = "nothing due"
"""
COMBINED = f'{RECIPE}[combine]\nby = "Mobile"\n[combine.columns]\nDue = "sum"\nBerth = "listed"\nLate = "sum"\n'


class Ledger:
    """A ledger file with the counting processes beside it, and whatever the tests do to them."""

    def __init__(self, folder) -> None:
        self.database = Database(folder / "ledger.sqlite3")
        self.database.migrate()
        self.pool = Pool(1)
        self.counting = Counting(self.database, lambda: AT, self.pool)
        self.cache = RoundCache(self.counting.end, self.counting.groups)
        self.editor = Editor(self.database, self.cache, lambda: AT)

    def bring(self, data=SHEET, recipe=RECIPE):
        with self.database.writing() as session:
            sheet = bring_in(data, "a.csv").sheet
            return add_round(session, sheet, recipe_from_toml(recipe), "a.csv", None, AT).id

    def opened(self, number):
        with self.database.reading() as session:
            return self.cache.opened(session, round_of(session, number))

    @property
    def process(self) -> int:
        return self.pool._processes[0].start().pid

    def at_work(self, opened, job):
        """Asks from another thread, and gives back what came of it once the work is under way."""
        came = []

        def ask():
            try:
                came.append(self.counting.answer(opened, job))
            except Exception as fault:
                came.append(fault)

        thread = threading.Thread(target=ask)
        thread.start()
        until(lambda: came or self.counting.percent(opened.round_id), "a count under way")
        assert not came, "it was still at work"
        return thread, came


@pytest.fixture
def ledger(tmp_path):
    made = Ledger(tmp_path)
    yield made
    made.pool.close()
    made.database.close()


LONG = as_csv(10_000)
LONG_RECIPE = f'wording = "{WORDING}"\nregion = "CA"\n'


@pytest.mark.parametrize("recipe", [RECIPE, COMBINED], ids=["each row for itself", "rows combined"])
def test_what_is_counted_elsewhere_is_what_is_computed_here(ledger, recipe):
    opened, ask = ledger.opened(ledger.bring(recipe=recipe)), ledger.counting.answer
    here = compute_round(opened.readings.sheet, opened.recipe)
    found = ledger.counting.counted(opened)
    for mark in PlanMark:
        rows = [row for row, its in enumerate(here.marks) if its == mark]
        assert (found.count(mark), list(found.rows_with(mark))) == (len(rows), rows)
    assert list(found.rows_with("Sent")) == []
    assert [each.check for each in found.found] == list(here.by_check)
    for check, mine in here.by_check.items():
        assert list(found.rows_found(check)) == sorted({finding.row for finding in mine})
    assert list(found.rows_found("no such check")) == []
    assert (found.texts, found.parts) == (len(here.ready), here.parts_to(here.ready))
    assert ask(opened, LookAtRows([4, 0, 3])) == [here.standing(row) for row in (4, 0, 3)]
    before = ask(opened, LookBeforeSending({}))
    assert (before.seal, before.worth_reading) == (seal_of(here, here.ready), here.worth_reading(here.ready))
    frozen = ask(opened, FreezeRows("UTC"))
    assert (frozen.version, frozen.rows) == (opened.version, list(frozen_rows(here, "UTC")))
    assert seal_of_frozen(those_to_go(frozen.rows)) == before.seal
    assert ask(opened, GroupRows()) == here.composer.groups
    assert ask(opened, SortNumbers()) == batches_in(opened)
    written = Formula(formula="{Due} * 2")
    assert ask(opened, TryOnAllRows(written)) == try_on_all_rows(opened, written)
    assert list(ask(opened, FindWords("INES c1"))) == [0, 3]
    assert list(ask(opened, FindWords("ines c15"))) == []


def test_which_rows_go_together_is_not_asked_while_the_ledger_is_locked(ledger):
    number = ledger.bring(recipe=COMBINED)
    asked = []

    def grouped(opened):
        with ledger.database.writing() as session:
            session.connection()
            asked.append(opened.version)
        return ledger.counting.groups(opened)

    edited = Editor(ledger.database, RoundCache(grouped=grouped), lambda: AT).edit(
        number, KeepRow(row=4, released=True)
    )
    assert (set(edited.opened.kept.released), asked) == ({0}, [1])


def test_what_is_known_already_is_not_sent_again(ledger):
    opened = ledger.opened(ledger.bring())
    first = ledger.counting.answer(opened, CountRows(None))
    assert not hasattr(ledger.counting.answer(opened, CountRows(first.token)), "marks")
    assert ledger.counting.answer(opened, CountRows((0, 0))).token == first.token


def test_a_refusal_comes_back_as_it_was_said(ledger):
    opened = ledger.opened(ledger.bring())
    with pytest.raises(NotUsable, match="format"):
        ledger.counting.answer(opened, TryOnAllRows(Formula(formula="{Due}", format="no such format")))


def test_a_newer_state_ends_the_count_and_an_older_one_does_not(ledger):
    number = ledger.bring(LONG, LONG_RECIPE)
    opened, before = ledger.opened(number), ledger.process
    thread, came = ledger.at_work(opened, CountRows(None))
    ledger.pool.end((ledger.database.path, number), opened.version - 1)
    ledger.pool.end((ledger.database.path, number + 1), opened.version)
    assert not came
    newer = ledger.editor.edit(number, MendCell(row=1, column="First name", typed="Zoe")).opened
    thread.join(20)
    assert isinstance(came[0], Superseded)
    assert list(ledger.counting.answer(newer, FindWords("zoe"))) == [0]
    assert ledger.counting.counted(newer).texts == 10_000
    assert ledger.process == before, "it keeps its sheet at hand"
    with pytest.raises(Superseded):
        ledger.counting.counted(opened)


def test_a_version_that_another_copy_replaced_is_not_counted(ledger):
    number = ledger.bring()
    opened = ledger.opened(number)
    elsewhere = Editor(ledger.database, RoundCache(), lambda: AT)
    elsewhere.edit(number, MendCell(row=1, column="Due", typed="999"))
    with pytest.raises(Superseded):
        ledger.counting.answer(opened, FindWords("999"))
    assert list(ledger.counting.answer(ledger.opened(number), FindWords("999"))) == [0]


def test_a_process_that_is_killed_in_the_midst_is_asked_once_more(ledger):
    opened = ledger.opened(ledger.bring(LONG, LONG_RECIPE))
    thread, came = ledger.at_work(opened, CountRows(None))
    killed = ledger.process
    os.kill(killed, signal.SIGKILL)
    thread.join(60)
    assert came[0].texts == 10_000
    assert ledger.process != killed


class Deadly:
    """Ends the process that takes it in."""

    def __reduce__(self):
        return os._exit, (3,)


def test_what_ends_the_process_twice_is_said(ledger):
    opened = ledger.opened(ledger.bring())
    with pytest.raises(NotCounted, match="could not be counted"):
        ledger.counting.answer(opened, Deadly())
    assert ledger.counting.counted(opened).texts == 2, "and the next one is answered"


def test_a_job_that_fails_is_told_with_its_place(ledger):
    opened = ledger.opened(ledger.bring())
    with pytest.raises(JobFailed, match=r"(?s)process.py:\d+ in work_on\n.*AttributeError$"):
        ledger.counting.answer(opened, "no job, and a word of a cell")
    assert ledger.counting.counted(opened).texts == 2


PACKAGE = Path(process.__file__).parents[2]


class EndedMidway:
    """A job that is told to end while it is in a file of that name: there, and ever again until it is left."""

    def __init__(self, worker, file) -> None:
        self.worker, self.went_on = worker, False
        named = file if file.startswith("<") else str(PACKAGE / file)
        there = {**vars(signal), **vars(time)}
        exec(compile("def tell():\n    raise_signal(SIGINT)\n    return True", named, "exec"), there)
        ours = str(PACKAGE / "core" / "x.py")
        exec(compile("def spin(until):\n    while monotonic() < until:\n        pass", ours, "exec"), there)
        self.tell, self.spin = there["tell"], there["spin"]

    def answer(self, _at_hand) -> str:
        self.worker._ended = 1
        self.went_on = self.tell()
        self.spin(time.monotonic() + 20)
        return "to its end"


@pytest.mark.parametrize(
    ("file", "goes_on"),
    [
        ("core/columns/x.py", False),
        ("app/x.py", False),
        ("store/x.py", True),
        ("../phonenumbers/x.py", True),
        ("../gentle_ledger_beside/core/x.py", True),
        ("<frozen importlib._bootstrap>", True),
    ],
)
def test_a_job_is_broken_off_in_our_own_computing_only(ledger, monkeypatch, file, goes_on):
    """A library that is left at any place keeps its lock for good: the next job would wait for it for ever."""
    worker = process.Worker(io.BytesIO(), io.BytesIO())
    before = {each: signal.signal(each, worker._interrupted) for each in (signal.SIGINT, signal.SIGALRM)}
    try:
        job = EndedMidway(worker, file)
        monkeypatch.setattr(process, "_OURS", (*process._OURS, __file__))
        monkeypatch.setattr(worker, "_file", lambda *_: FileAtHand(ledger.database.path, "UTC"))
        answer = worker._answer(Request(1, ledger.database.path, ledger.bring(), "UTC", 1, AT, job))
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        for each, handler in before.items():
            signal.signal(each, handler)
    assert (answer.outcome, job.went_on) == (Outcome.SUPERSEDED, goes_on)


@pytest.mark.parametrize("at_work", [False, True])
def test_the_process_ends_with_whoever_asks(ledger, at_work):
    number = ledger.bring(LONG, LONG_RECIPE)
    running = subprocess.Popen(
        [sys.executable, "-I", "-m", process.__name__], stdin=subprocess.PIPE, stdout=subprocess.PIPE
    )
    if at_work:
        pickle.dump(Request(1, ledger.database.path, number, "UTC", 1, AT, CountRows(None)), running.stdin)
        running.stdin.flush()
        pickle.load(running.stdout)
    running.stdin.close()
    assert running.wait(10) == 0
    running.stdout.close()


def test_the_keyboard_interrupts_the_program_and_not_the_count(ledger):
    opened = ledger.opened(ledger.bring(LONG, LONG_RECIPE))
    thread, came = ledger.at_work(opened, CountRows(None))
    os.kill(ledger.process, signal.SIGINT)
    thread.join(60)
    assert came[0].texts == 10_000


def test_nothing_is_counted_after_the_end(ledger):
    opened = ledger.opened(ledger.bring())
    ledger.pool.close()
    with pytest.raises(NotCounted):
        ledger.counting.counted(opened)


def test_who_is_not_needed_any_more_does_not_wait_for_the_turn(ledger):
    """Another round is at work in the same process: a state that was replaced leaves the queue at once."""
    long, other = ledger.opened(ledger.bring(LONG, LONG_RECIPE)), ledger.opened(ledger.bring())
    thread, came = ledger.at_work(long, CountRows(None))
    other.superseded = True
    with pytest.raises(Superseded):
        ledger.counting.counted(other)
    assert not came, "the other one is still at work"
    thread.join(60)
    assert came[0].texts == 10_000


def test_a_file_that_is_gone_is_said_and_not_made_anew(ledger):
    opened = ledger.opened(ledger.bring())
    ledger.database.close()
    path = ledger.database.path.rename(ledger.database.path.with_suffix(".moved"))
    with pytest.raises(CannotWrite, match="cannot be opened") as refused:
        ledger.counting.answer(opened, FindWords("ines"))
    assert refused.value.status == 507
    assert not ledger.database.path.exists()
    path.rename(ledger.database.path)
    assert list(ledger.counting.answer(opened, FindWords("ines"))) == [0, 3]
