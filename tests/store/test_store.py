"""The store: cells keep their types, the migrations make the models' tables, rounds come and go."""

import errno
import sqlite3
from datetime import UTC, date, datetime, timedelta, timezone
from decimal import Decimal

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy.exc import OperationalError

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.store.base import Base, Instant
from gentle_ledger.store.cells import cells_from_json, cells_to_json
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import CannotOpen, NotThere, cannot_open
from gentle_ledger.store.rounds import (
    add_round,
    kept_rows_of,
    list_rounds,
    recipe_of,
    remove_round,
    round_of,
    set_recipe,
    sheet_of,
)
from gentle_ledger.store.rows import set_flag

cells = st.one_of(
    st.none(),
    st.booleans(),
    st.text(st.characters(exclude_categories=("Cs",)), min_size=1),
    st.decimals(allow_nan=False, allow_infinity=False),
    st.dates(),
    st.datetimes(),
)


@pytest.fixture
def database(tmp_path):
    made = Database(tmp_path / "l.sqlite3")
    made.migrate()
    yield made
    made.close()


@given(st.lists(cells))
def test_cells_keep_their_types(row):
    read = cells_from_json(cells_to_json(row))
    assert read == tuple(row)
    assert [type(cell) for cell in read] == [type(cell) for cell in row]
    assert [str(cell) for cell in read] == [str(cell) for cell in row]


def test_the_migrations_make_the_tables_of_the_models(database):
    """Alembic's own comparison of a migrated file with the models finds nothing."""
    with database.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": False})
        found = compare_metadata(context, Base.metadata)
    assert found == []


def test_a_number_is_never_given_to_a_second_round(database):
    """Open windows and the desks in memory know a round by its number."""
    numbers = []
    for days in range(0, 9, 3):
        with database.writing() as session:
            numbers.append(add_round(session, Sheet(("A",), [("x",)]), Recipe(), "a.csv", None, datetime.now(UTC)).id)
            remove_round(session, numbers[-1], datetime.now(UTC) + timedelta(days=days))
    assert len(set(numbers)) == 3


def test_migrating_again_changes_nothing(database):
    with database.writing() as session:
        add_round(session, Sheet(("A",), [("x",)]), Recipe(), "a.csv", None, datetime.now(UTC))
    database.migrate()
    with database.reading() as session:
        assert len(list_rounds(session)) == 1


def test_moments_sort_as_text_whatever_their_zone():
    kind = Instant()
    west = datetime(2026, 11, 24, 8, 0, tzinfo=timezone(timedelta(hours=-4)))
    later = west.astimezone(UTC) + timedelta(microseconds=1)
    written = [kind.process_bind_param(moment, None) for moment in (west, later)]
    assert written == sorted(written)
    assert [kind.process_result_value(text, None) for text in written] == [west, later]


def test_a_round_comes_and_goes(database):
    at = datetime(2026, 11, 24, tzinfo=UTC)
    sheet = Sheet(("Name", "Due"), [("Ines", Decimal("186.40")), ("Bo", date(2026, 11, 30)), (None, "007")])
    with database.writing() as session:
        found = add_round(session, sheet, Recipe(title="Dues"), "dues.csv", None, at)
        set_flag(session, found, [2], "left_out", True)
        set_flag(session, found, [3], "released", True)
        set_recipe(found, recipe_of(found).model_copy(update={"wording": "Hi"}))
        version = found.version
        with pytest.raises(NotThere, match="no row 4"):
            set_flag(session, found, [4], "left_out", True)
    with database.reading() as session:
        kept = round_of(session, found.id)
        assert (kept.version, kept.row_count, recipe_of(kept).wording) == (version, 3, "Hi")
        assert (sheet_of(session, kept).columns, list(sheet_of(session, kept).rows)) == (sheet.columns, sheet.rows)
        rows = kept_rows_of(session, kept)
        assert (rows.left_out, set(rows.released)) == ({1}, {2})
    with database.writing() as session:
        remove_round(session, found.id, at)
    with database.reading() as session, pytest.raises(NotThere):
        round_of(session, found.id)


def test_a_write_that_fails_leaves_nothing_behind(database):
    def half() -> None:
        with database.writing() as session:
            add_round(session, Sheet(("A",), [("x",)]), Recipe(), "a.csv", None, datetime.now(UTC))
            raise RuntimeError("the power goes")

    with pytest.raises(RuntimeError):
        half()
    with database.reading() as session:
        assert list_rounds(session) == []


def a_newer_ledger(path):
    database = Database(path)
    database.migrate()
    with database.writing() as session:
        session.connection().exec_driver_sql("UPDATE alembic_version SET version_num = '9999'")
    database.close()


def another_programs(path):
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE tides (at TEXT)")
    connection.close()


def a_damaged_ledger(path):
    """The pages behind the first are overwritten: the file still opens."""
    database = Database(path)
    database.migrate()
    database.close()
    with path.open("r+b") as file:
        file.seek(4096)
        file.write(b"\xff" * 40_000)


def no_database(path):
    path.write_bytes(b"Name,Mobile\nInes,902-555-0101\n" * 200)


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (a_newer_ledger, "a newer version of this program has written it"),
        (another_programs, "another program keeps its data in it"),
        (a_damaged_ledger, "damaged"),
        (no_database, "not a database"),
    ],
)
def test_a_file_that_is_not_ours_to_write_is_refused_and_left_as_it_is(tmp_path, make, said):
    path = tmp_path / "l.sqlite3"
    make(path)
    before = path.read_bytes()
    database = Database(path)
    with pytest.raises(CannotOpen, match=said):
        database.migrate()
    database.close()
    assert path.read_bytes() == before


@pytest.mark.parametrize(
    ("fault", "said"),
    [
        (PermissionError(errno.EACCES, "Permission denied"), "Give this program the right to write it."),
        (OSError(errno.ENOSPC, "No space left on device"), "Make room on it; nothing is lost."),
        (OSError(errno.EROFS, "Read-only file system"), "Give this program the right to write it."),
        (sqlite3.OperationalError("database is locked"), "Try again once nobody keeps the ledger any more."),
        (sqlite3.DatabaseError("database disk image is malformed"), "Put a copy in its place"),
        (
            OperationalError("BEGIN", {}, sqlite3.OperationalError("disk I/O error")),
            "See whether it is full or failing",
        ),
    ],
)
def test_another_file_is_no_remedy_where_a_ledger_lies(tmp_path, fault, said):
    path = tmp_path / "l.sqlite3"
    assert "Choose another file" in cannot_open(path, fault).sentence
    Database(path).migrate()
    sentence = cannot_open(path, fault).sentence
    assert said in sentence
    assert "another file" not in sentence
    assert "by itself" not in sentence


def test_a_ledger_of_an_earlier_version_is_brought_to_this_one(tmp_path):
    """The marks of a round that was sending then are kept; what was Going or Unsure is still to be asked about."""
    path = tmp_path / "l.sqlite3"
    database = Database(path)
    database.migrate(to="0004")
    with database.writing() as session:
        session.connection().exec_driver_sql(
            "INSERT INTO rounds (id, stage, recipe, columns, row_count, file_name, note, reading, version, created_at) "
            "VALUES (1, 'sending', '{}', '[]', 2, 'a.csv', '', '', 1, '2026-11-26T00:00:00+00:00')"
        )
        for row, mark in enumerate(("Unsure", "Sent", "To go"), 1):
            session.connection().exec_driver_sql(
                "INSERT INTO messages (round_id, row, label, address, text, parts, mark, reason, may_retry, tries, "
                f"marked_at) VALUES (1, {row}, '', '+19025550101', 'x', 1, '{mark}', '', 0, 1, '2026')"
            )
    database.migrate()
    with database.reading() as session:
        kept = session.connection().exec_driver_sql("SELECT mark, uncertain FROM messages ORDER BY row").all()
    database.close()
    assert kept == [("Unsure", 1), ("Sent", 0), ("To go", 0)]
