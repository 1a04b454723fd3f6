"""Mending, adding and leaving out, undone and done again: the store against a plain list of sheets."""

from datetime import UTC, datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.store.corrections import (
    Mend,
    add_row,
    leave_out,
    mend,
    originals_of,
    redo,
    undo,
    what_can_be_undone,
)
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.rounds import add_round, kept_rows_of, remove_round, replace_sheet, round_of, sheet_of

SHEET = Sheet(("Name", "Due"), [("Ines", "1"), ("Bo", "2"), ("Cal", "3")])
AT = datetime(2026, 11, 24, tzinfo=UTC)


@pytest.fixture(scope="module")
def database(tmp_path_factory):
    made = Database(tmp_path_factory.mktemp("corrections") / "l.sqlite3")
    made.migrate()
    yield made
    made.close()


def fresh(session):
    return add_round(session, SHEET, Recipe(title="Dues"), "dues.csv", None, AT)


def state(session, found):
    session.flush()
    session.expire_all()
    return list(sheet_of(session, found).rows), kept_rows_of(session, found).left_out


STEPS = st.lists(
    st.one_of(
        st.tuples(st.just("mend"), st.integers(0, 2), st.integers(0, 1), st.sampled_from(["x", "1", None])),
        st.tuples(st.just("out"), st.integers(0, 2), st.booleans()),
        st.tuples(st.just("add")),
        st.tuples(st.just("undo")),
        st.tuples(st.just("redo")),
    ),
    max_size=12,
)


@settings(max_examples=40)
@given(STEPS)
def test_any_walk_ends_where_a_list_of_sheets_ends(database, steps):
    """The model keeps every sheet there was; undo and redo move along it, and a new step cuts off what was undone."""
    with database.writing() as session:
        found = fresh(session)
        past, here = [state(session, found)], 0
        for kind, *more in steps:
            if kind == "undo" and here == 0:
                with pytest.raises(NotNow):
                    undo(session, found)
            elif kind == "redo" and here == len(past) - 1:
                with pytest.raises(NotNow):
                    redo(session, found)
            elif kind in {"undo", "redo"}:
                (undo if kind == "undo" else redo)(session, found)
                here += -1 if kind == "undo" else 1
            else:
                changed = True
                if kind == "mend":
                    mend(session, found, [Mend(more[0], more[1], more[2])])
                elif kind == "out":
                    changed = (more[0] in past[here][1]) != more[1]
                    leave_out(session, found, [more[0] + 1], more[1])
                else:
                    add_row(session, found)
                # Leaving out what is left out is no step; like any other it forgets what was undone.
                past = [*past[: here + 1], state(session, found)] if changed else past[: here + 1]
                here = len(past) - 1
            assert state(session, found) == past[here]
            assert [said is not None for said in what_can_be_undone(session, found)] == [here > 0, here < len(past) - 1]
        remove_round(session, found.id)


def test_what_stood_there_is_kept_beside_it(database):
    with database.writing() as session:
        found = fresh(session)
        mend(session, found, [Mend(0, 1, "9"), Mend(1, 1, "8")])
        number = add_row(session, found)
        session.flush()
        assert originals_of(session, found, range(4)) == {0: ("Ines", "1"), 1: ("Bo", "2"), number - 1: None}
        mend(session, found, [Mend(0, 1, "1")])
        session.flush()
        assert 0 not in originals_of(session, found, range(4)), "mended back is not mended"
        remove_round(session, found.id)


def test_steps_are_named(database):
    with database.writing() as session:
        found = fresh(session)
        said = []
        for do in (
            lambda: mend(session, found, [Mend(0, 1, "a very long cell that is cut short")]),
            lambda: mend(session, found, [Mend(0, 1, "9"), Mend(1, 1, "8")]),
            lambda: leave_out(session, found, [2], True),
            lambda: leave_out(session, found, [2], False),
            lambda: leave_out(session, found, [1, 3], True),
            lambda: add_row(session, found),
        ):
            do()
            said.append(what_can_be_undone(session, found)[0])
        assert said == [
            '"a very long cell th…" in row 1, Due',
            "mending 2 cells",
            "leaving row 2 out",
            "taking row 2 back",
            "leaving 2 rows out",
            "adding row 4",
        ]
        remove_round(session, found.id)


def test_what_is_not_there_cannot_be_mended(database):
    with database.writing() as session:
        found = fresh(session)
        with pytest.raises(NotThere, match="no row 9"):
            mend(session, found, [Mend(8, 0, "x")])
        with pytest.raises(NotNow, match="at most 32,767 characters"):
            mend(session, found, [Mend(0, 0, "x" * 40_000)])
        session.rollback()


def test_a_newer_version_begins_without_a_past(database):
    with database.writing() as session:
        found = fresh(session)
        mend(session, found, [Mend(0, 1, "9")])
        leave_out(session, found, [3], True)
        kept = kept_rows_of(session, found)
        replace_sheet(session, found, Sheet(("Name",), [("Di",), ("Ed",), ("Flo",)]), kept, "new.csv", "")
        session.flush()
        assert what_can_be_undone(session, found) == (None, None)
        assert state(session, found) == ([("Di",), ("Ed",), ("Flo",)], {2})
        number = found.id
        remove_round(session, number)
    with database.reading() as session, pytest.raises(NotThere):
        round_of(session, number)
