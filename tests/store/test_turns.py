"""What the sender looks for before every text is found at once, however many texts wait."""

from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy.exc import IntegrityError, OperationalError

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.sending.to_do import to_do
from gentle_ledger.store.database import Database
from gentle_ledger.store.freezing import freeze
from gentle_ledger.store.messages import uncertain_texts
from gentle_ledger.store.rounds import add_round
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.steps import StepRefused, marked_text, step_text
from tests.sending.world import empty_ledger

NOW = datetime(2026, 11, 26, 15, 0, tzinfo=UTC)
AREAS = ("902", "506", "604", "204")


@pytest.fixture
def ledger(tmp_path):
    made = empty_ledger(tmp_path)
    yield made
    made.close()


def begin(ledger: Database, rows: int) -> int:
    sheet = Sheet(("Name", "Mobile"), [(f"P{n}", f"{AREAS[n % 4]}-555-{n // 4 % 100 + 100:04}") for n in range(rows)])
    recipe = Recipe(wording="Hello {Name}", pace=PaceSettings(), checks={"same number": "look"})
    with ledger.writing() as session:
        found = add_round(session, sheet, recipe, "a.csv", None, NOW)
        freeze(session, found, frozen_rows(compute_round(sheet, recipe), "America/Halifax"), NOW)
        return found.id


def look(ledger: Database) -> tuple[list, int]:
    """The next text of each round, and how much work it was to find them, in thousands of SQLite's own steps."""
    work = [0]

    def more() -> None:
        work[0] += 1

    with ledger.reading() as session:
        # The pool has one connection here, so this is the one that looks.
        session.connection().connection.driver_connection.set_progress_handler(more, 1_000)
    seen = to_do(ledger, lambda _text: True, NOW.timestamp(), "America/Halifax", 1)
    return [turn.texts for turn in seen.sending], work[0]


def test_among_thousands_that_wait_only_those_are_gone_through_that_may_leave(ledger):
    begin(ledger, 4_000)
    (texts,), work = look(ledger)
    assert (texts.first.place, work <= 1) == (0, True)
    with ledger.writing_bare() as store:
        store.run("UPDATE messages SET moment = ?", (NOW + timedelta(days=3)).isoformat(timespec="microseconds"))
    (texts,), work = look(ledger)
    assert (texts.first, texts.frees[0], work <= 1) == (None, (NOW + timedelta(days=3)).timestamp(), True)
    came = (NOW - timedelta(hours=1)).isoformat(timespec="microseconds")
    with ledger.writing_bare() as store:
        store.run("UPDATE messages SET moment = ? WHERE row IN (3000, 2001)", came)
        # One that is tried again has no moment any more, and keeps its place.
        store.run("UPDATE messages SET moment = NULL WHERE row = 2500")
    (texts,), work = look(ledger)
    assert (texts.first.place, work <= 1) == (2_000, True)


def write(ledger: Database, *statements: str, ends: BaseException | None = None) -> None:
    with ledger.writing_bare() as store:
        for statement in statements:
            store.run(statement)
        if ends:
            raise ends


def test_what_is_written_out_is_written_wholly_or_not_at_all_and_its_errors_are_those_of_a_session(ledger):
    begin(ledger, 4)
    half = "UPDATE rounds SET note = 'half'"
    with pytest.raises(ZeroDivisionError):
        write(ledger, half, ends=ZeroDivisionError())
    with pytest.raises(IntegrityError, match="the turn of a text cannot change"):
        write(ledger, half, "UPDATE messages SET place = 99")
    with ledger.reading_bare() as store:
        assert store.first("SELECT note FROM rounds") == ("",)
    with ledger.writing() as session:
        store = statements_of(session)
        with pytest.raises(OperationalError, match="no such column"):
            store.rows("SELECT berth FROM rounds")
        # A second writer waits, and is told when that takes too long.
        with ledger.reading_bare() as other:
            other.run("PRAGMA busy_timeout = 1")
            with pytest.raises(OperationalError, match="locked"):
                other.run(half)
    write(ledger, half)
    with ledger.reading_bare() as store:
        assert store.rows("SELECT note FROM rounds") == [("half",)]


def test_a_mark_changes_only_from_what_it_was_known_to_be(ledger):
    begin(ledger, 2)
    with ledger.writing_bare() as store:
        known = marked_text(store, 1)
        step_text(store, known, Mark.GOING, NOW, reference="r1", line="the quay's")
    with pytest.raises(StepRefused, match="Row 1 has changed its mark meanwhile"), ledger.writing_bare() as store:
        step_text(store, known, Mark.GOING, NOW, reference="r2")
    with pytest.raises(StepRefused, match="Row 1 is Ready and cannot become Sent"), ledger.writing_bare() as store:
        step_text(store, known._replace(mark="Ready"), Mark.SENT, NOW)
    with ledger.reading_bare() as store:
        marks = store.rows("SELECT mark, reference, tries, uncertain FROM messages ORDER BY row")
        assert marks == [("Going", "r1", 1, 1), ("To go", None, 0, 0)]
        assert store.rows("SELECT message_id, mark, reference, line FROM ledger") == [(1, "Going", "r1", "the quay's")]
        assert uncertain_texts(store) == [(1, 1, "Going", None)]
