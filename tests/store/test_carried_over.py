"""A ledger of an earlier version: its corrections can still be undone, and its hand-overs are attempts."""

import json
import sqlite3
from contextlib import closing
from datetime import UTC, datetime

import pytest

from gentle_ledger.app.commands import rows as _words  # noqa: F401 - what was done has its words there
from gentle_ledger.core.recipe.kept import NEWER
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.attempts import attempts_of, references_of
from gentle_ledger.store.database import Database
from gentle_ledger.store.effects import Touched
from gentle_ledger.store.journal import steps_of, take_step, what_can_be_undone
from gentle_ledger.store.lines import kept_away
from gentle_ledger.store.messages import stopped_before_turn
from gentle_ledger.store.models import LineRecord
from gentle_ledger.store.rounds import kept_rows_of, recipe_of, round_of, sheet_of, unusable_of
from gentle_ledger.store.statements import statements_of


def walked(session, found, *, back):
    for step in steps_of(session, found, back=back):
        for effect in step.effects:
            effect.apply(session, found, Touched(), back=back)
        take_step(session, found, step, NOW, "x", back=back)


AT = "2026-11-03T12:00:00.000000+00:00"
NOW = datetime(2026, 11, 26, tzinfo=UTC)
EARLIER = f"""
INSERT INTO round_numbers (id) VALUES (1), (2);
INSERT INTO rounds (id, stage, recipe, columns, row_count, file_name, note, reading, ask_wanted, version, sheet_version,
 created_at) VALUES
 (1, 'preparing', '{{"title": "Dues", "wording": "Hi"}}', '["Name", "Due"]', 3, 'a.csv', '', '', 0, 5, 3, '{AT}'),
 (2, 'stopped', '{{}}', '["Name"]', 3, 'b.csv', '', '', 0, 5, 1, '{AT}');
INSERT INTO rows (round_id, number, cells, left_out, released, original, added, hidden) VALUES
 (1, 1, '["Ines",{{"n":"9"}}]', 0, 0, '["Ines",{{"n":"1"}}]', 0, 0),
 (1, 2, '["Bo","2"]', 1, 0, NULL, 0, 0),
 (1, 3, '[null,null]', 0, 0, NULL, 1, 0);
INSERT INTO corrections (round_id, step, row, "column", before, after, undone) VALUES
 (1, 1, 1, 1, '[{{"n":"1"}}]', '[{{"n":"9"}}]', 0),
 (1, 2, 2, NULL, 'false', 'true', 0),
 (1, 3, 3, NULL, NULL, NULL, 0),
 (1, 4, 1, 0, '["Ines"]', '["Inez"]', 1);
INSERT INTO messages (id, round_id, row, label, address, text, parts, mark, reason, may_retry, tries, reference,
 marked_at, uncertain, codes) VALUES
 (1, 2, 1, '', '+19025550101', 'x', 1, 'Sent', '', 0, 2, 'two', '{AT}', 0, '[]'),
 (2, 2, 2, '', '+19025550102', 'x', 1, 'Left out', 'the round was stopped before its turn', 0, 0, NULL, '{AT}', 0,
  '[]'),
 (3, 2, 3, '', '+19025550103', 'x', 1, 'Left out', 'nothing due', 0, 0, NULL, '{AT}', 0, '[]');
INSERT INTO ledger (at, message_id, mark, reason, reference, line) VALUES
 ('{AT}', 1, 'Going', '', 'one', 'Quay Office'),
 ('{AT}', 1, 'To go', 'busy', 'one', 'Quay Office at the quay'),
 ('{AT}', 1, 'Going', '', 'two', 'Quay Office at the quay'),
 ('{AT}', 1, 'Sent', '', 'two', 'Quay Office at the quay');
INSERT INTO lines (name, away_since, reason, failures, wait, asked) VALUES
 ('Quay Office at the quay', '{AT}', 'busy', 3, 4.0, 0.0);
"""


@pytest.fixture
def database(tmp_path):
    made = Database(tmp_path / "l.sqlite3")
    made.migrate("0007")
    with closing(sqlite3.connect(made.path)) as earlier:
        earlier.executescript(EARLIER)
    made.migrate()
    yield made
    made.close()


OTHER_SHEET = f"""
INSERT INTO round_numbers (id) VALUES (3);
INSERT INTO rounds (id, stage, recipe, columns, row_count, file_name, note, reading, ask_wanted, version, sheet_version,
 created_at, uid) VALUES (3, 'preparing', '{{}}', '["Name"]', 2, 'new.csv', '', '', 0, 5, 3, '{AT}', 'u');
INSERT INTO rows (round_id, number, cells, left_out, released, original, added, hidden, release) VALUES
 (3, 1, '["Ada"]', 0, 0, NULL, 0, 0, ''), (3, 2, '["Bo"]', 1, 0, NULL, 0, 0, '');
INSERT INTO earlier_sheets (id, round_id, columns, file_name, reading) VALUES (7, 3, '["Old"]', 'old.csv', '');
INSERT INTO earlier_rows (sheet_id, number, cells, left_out, released, original, added, hidden, release) VALUES
 (7, 1, '["Eve"]', 0, 0, NULL, 0, 0, '');
INSERT INTO changes (round_id, at, until, "by", kind, parameters, effects, undoable, dropped) VALUES
 (3, '{AT}', '{AT}', 'x', 'newer sheet', '{{"file": "new.csv"}}', '[{{"kind": "sheet", "kept": 7}}]', 1, 0);
"""


def test_a_newer_sheet_of_an_earlier_version_can_still_be_undone_and_done_again(tmp_path):
    made = Database(tmp_path / "l.sqlite3")
    made.migrate("0017")
    with closing(sqlite3.connect(made.path)) as earlier:
        earlier.executescript(OTHER_SHEET)
    made.migrate()

    def stands(session):
        session.flush()
        found = round_of(session, 3)
        sheet = sheet_of(session, found)
        rows = [cell for row in sheet.rows for cell in row]
        return sheet.columns, rows, found.row_count, found.file_name, sorted(kept_rows_of(session, found).left_out)

    now, before = (("Name",), ["Ada", "Bo"], 2, "new.csv", [1]), (("Old",), ["Eve"], 1, "old.csv", [])
    with made.writing() as session:
        found = round_of(session, 3)
        for back, seen in ((None, now), (True, before), (False, now), (True, before)):
            if back is not None:
                walked(session, found, back=back)
            assert stands(session) == seen
    with made.reading_bare() as ledger:
        assert ledger.rows("SELECT DISTINCT round_id FROM sheets") == [(3,)], "none is to be cleared away"
    made.close()


def test_what_was_corrected_can_still_be_undone_and_done_again(database):
    with database.writing() as session:
        found = round_of(session, 1)
        assert what_can_be_undone(session, found) == ("adding row 3", '"Inez" in row 1, Name')
        walked(session, found, back=True)
        walked(session, found, back=True)
        assert what_can_be_undone(session, found)[0] == '"9" in row 1, Due'
        walked(session, found, back=True)
        session.flush()
        session.expire_all()
        assert [str(cell) for row in sheet_of(session, found).rows for cell in row] == ["Ines", "1", "Bo", "2"]
        assert what_can_be_undone(session, found)[0] is None
        walked(session, found, back=False)
        assert str(sheet_of(session, found).rows[0][1]) == "9"


def test_what_was_handed_over_is_an_attempt_by_its_line(database):
    with database.reading() as session:
        known = references_of(statements_of(session), 1)
        assert {reference: each.identity for reference, each in known.items()} == {
            "one": "Quay Office",
            "two": "Quay Office at the quay",
        }
        assert [a.state for a in attempts_of(session, 1)] == ["open", "accepted"]
        line = session.query(LineRecord).filter_by(identity="Quay Office at the quay").one()
        assert (kept_away(line).reason, kept_away(line).failures) == ("busy", 3)
        taken_up = stopped_before_turn(session, 2)
        assert [(message.row, message.mark) for message in taken_up] == [(2, Mark.LEFT_OUT)]


def test_a_recipe_without_a_form_is_of_the_first_and_one_of_a_newer_form_is_said(database):
    with database.writing() as session:
        found = round_of(session, 1)
        assert (recipe_of(found).wording, unusable_of(found)) == ("Hi", ())
        found.recipe = json.dumps({"form": 99, "wording": "Hi"})
        assert (recipe_of(found).wording, unusable_of(found)) == ("", (NEWER,))


def test_a_stage_takes_no_step_that_is_none(database):
    with closing(sqlite3.connect(database.path)) as by_hand, pytest.raises(sqlite3.IntegrityError, match="this step"):
        by_hand.execute("UPDATE rounds SET stage = 'preparing' WHERE id = 2")
