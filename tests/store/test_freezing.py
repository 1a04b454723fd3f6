"""Texts that are written down before their round starts count for nothing until it does."""

from datetime import UTC, datetime

import pytest

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.freezing import begin_laid, lay_texts, take_back, texts_of_rows
from gentle_ledger.store.history import goes_on_since, read_so_far
from gentle_ledger.store.messages import counts_of
from gentle_ledger.store.put_back import Doubts, doubted_rows, put_in_doubt
from gentle_ledger.store.rounds import add_round, round_of
from gentle_ledger.store.sheets import at_work
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.witness import HandedOver

AT = datetime(2026, 11, 26, 12, tzinfo=UTC)
SHEET = Sheet(("Mobile", "Name"), [("902-555-0101", "Ines"), ("902-555-0102", "Bo")])
RECIPE = Recipe(wording="Hello {Name}")
MINE, OTHERS = "+19025550101", "+19025550199"


@pytest.fixture
def database(tmp_path):
    made = Database(tmp_path / "l.sqlite3")
    made.migrate()
    yield made
    made.close()


def prepared(database):
    with database.writing() as session:
        return add_round(session, SHEET, RECIPE, "a.csv", None, AT).id


def texts(round_id):
    rows = list(frozen_rows(compute_round(SHEET, RECIPE), "UTC"))
    return texts_of_rows(round_id, rows, rows, AT)


def begin(database, round_id, token, n=2):
    with database.writing() as session:
        begin_laid(session, round_of(session, round_id), token, n, AT)


def test_only_who_wrote_all_of_them_down_starts_the_round(database):
    number = prepared(database)
    with at_work() as token:
        lay_texts(database, number, 1, texts(number), token)
        for other, n in (("somebody else", 2), (token, 3), (token, 1), ("", 2)):
            with pytest.raises(NotNow, match="in another window"):
                begin(database, number, other, n)
        begin(database, number, token)
        with pytest.raises(NotNow, match="Something changed"):
            lay_texts(database, number, 1, texts(number), token)
    with database.reading() as session:
        assert counts_of(session, number) == {"To go": 2}


def test_who_was_cut_off_is_followed_by_another_and_each_text_is_there_once(database):
    number = prepared(database)
    with at_work() as token:
        lay_texts(database, number, 1, texts(number), token)
    with at_work() as second:
        lay_texts(database, number, 1, texts(number), second)
        with pytest.raises(NotNow):
            begin(database, number, token)
        begin(database, number, second)
    with database.reading_bare() as ledger:
        assert ledger.rows("SELECT row FROM messages ORDER BY row") == [(1,), (2,)]
    with at_work() as token, pytest.raises(NotNow, match="Something changed"):
        lay_texts(database, prepared(database), 7, [], token)


def test_the_record_goes_on_when_a_round_starts_and_not_while_its_texts_are_written(database):
    first, number = prepared(database), prepared(database)

    def goes_on(read, about=MINE):
        with database.reading() as session:
            return goes_on_since(session, first, read, {about}.__contains__)

    with database.reading() as session:
        read = read_so_far(session)
    with at_work() as token:
        lay_texts(database, number, 1, texts(number), token)
        assert not goes_on(read)
        with database.reading() as session:
            assert read_so_far(session) == read
        begin(database, number, token)
    assert goes_on(read), "although its texts are older than what was read"
    assert not goes_on(read, OTHERS)
    with database.reading() as session:
        assert not goes_on(read_so_far(session))
        assert not goes_on_since(session, number, read, {MINE}.__contains__), "its own start is none of another"
    with database.writing() as session:
        take_back(round_of(session, number))
    with at_work() as token:
        lay_texts(database, first, 1, texts(first), token)
        begin(database, first, token)


def test_a_hand_over_of_a_round_that_was_not_started_is_kept_for_its_start(database):
    number = prepared(database)
    with at_work() as token:
        lay_texts(database, number, 1, texts(number), token)
        with database.reading() as session:
            uid = round_of(session, number).uid
        handed = HandedOver(AT.timestamp(), "a line", uid, 1, "r1")
        put_in_doubt(database, Doubts([handed], moved=False, other=False), AT, "then")
        begin(database, number, token)
    with database.reading() as session:
        assert set(doubted_rows(statements_of(session), uid)) == {1}
        assert counts_of(session, number) == {"To go": 2}
