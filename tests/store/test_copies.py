"""Copies: made while the ledger is in use, never over another file; put back as a stranger's file would be."""

import errno
import os
import shutil
import sqlite3
import stat
from contextlib import closing
from pathlib import Path

import pytest

from gentle_ledger.cli.main import main
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store import copies
from gentle_ledger.store.copies import (
    CopyRefused,
    copy_of_the_day,
    kept_copies,
    put_copy_back,
    released_versions,
    save_copy,
)
from gentle_ledger.store.database import Database
from gentle_ledger.store.models import Round
from gentle_ledger.store.serving import serving
from tests.sending.world import World


@pytest.fixture
def world(tmp_path):
    made = World(tmp_path, witnessed=True)
    made.sender.act()
    return made


def at_rest(world):
    """Nobody uses the ledger any more."""
    world.sender.give_back()
    world.database.leave_tidy()


def rows(path, wanted="SELECT row, mark, address FROM messages ORDER BY row"):
    with closing(sqlite3.connect(path)) as look:
        assert look.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        return look.execute(wanted).fetchall()


def test_a_copy_is_made_while_somebody_writes_and_is_its_owners_alone(world, tmp_path):
    before = rows(world.database.path)
    with closing(sqlite3.connect(world.database.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        other.execute("UPDATE rounds SET note = 'half done'")
        made = save_copy(world.database.path, tmp_path / "copy")
        other.execute("ROLLBACK")
    assert rows(made.path) == before
    assert rows(made.path, "SELECT note FROM rounds") == [("",)]
    assert stat.S_IMODE(made.path.stat().st_mode) == 0o600
    assert sorted(p.name for p in tmp_path.iterdir() if p.name.startswith("copy")) == ["copy"], "nothing beside it"
    world.run()
    assert world.marks() == ["Sent"] * 3


def test_no_copy_is_made_over_a_file_or_where_none_can_be(world, tmp_path):
    there = tmp_path / "there"
    there.write_text("mine")
    for to, why in ((there, "is there already"), (tmp_path / "no" / "folder", "No copy can be written")):
        with pytest.raises(CopyRefused, match=why):
            save_copy(world.database.path, to)
    assert there.read_text() == "mine"
    with pytest.raises(CopyRefused, match="no ledger"):
        save_copy(tmp_path / "none", tmp_path / "copy")


def test_one_a_day_and_the_last_ones_are_kept(world):
    path = world.database.path
    for day in range(1, 13):
        assert copy_of_the_day(path, f"2026-12-{day:02}", 7) is not None
        assert copy_of_the_day(path, f"2026-12-{day:02}", 7) is None
    stranger = Path(f"{path}.copies") / "ledger-mine.sqlite3"
    stranger.write_text("kept by hand")
    copy_of_the_day(path, "2026-12-13", 7)
    assert [copy.path.name for copy in kept_copies(path)] == [
        f"ledger-2026-12-{d:02}.sqlite3" for d in range(13, 6, -1)
    ]
    assert stranger.exists(), "what somebody else put there stays"
    assert copy_of_the_day(path, "2026-12-14", 0) is None


def test_a_copy_does_not_wait_for_ever_for_who_keeps_the_ledger_to_himself(world, tmp_path, monkeypatch):
    world.start()
    world.database.leave_tidy()
    monkeypatch.setattr(copies, "_PATIENCE", 0.1)
    with closing(sqlite3.connect(world.database.path, isolation_level=None)) as other:
        other.execute("PRAGMA locking_mode=EXCLUSIVE")
        other.execute("BEGIN IMMEDIATE")
        other.execute("UPDATE rounds SET note = note")
        with pytest.raises(CopyRefused, match="is locked"):
            save_copy(world.database.path, tmp_path / "copy")
    assert not list(tmp_path.glob("copy*"))
    save_copy(world.database.path, tmp_path / "copy")


def test_a_stick_that_knows_no_links_takes_a_copy_too_and_never_over_a_file(world, tmp_path, monkeypatch):
    def no_links(*_):
        raise PermissionError(errno.EPERM, "Operation not permitted")

    monkeypatch.setattr(copies.os, "link", no_links)
    made = save_copy(world.database.path, tmp_path / "copy")
    assert made.size == made.path.stat().st_size > 0
    (tmp_path / "other").write_text("letters")
    with pytest.raises(CopyRefused, match="no copy is made over it"):
        save_copy(world.database.path, tmp_path / "other")
    assert (tmp_path / "other").read_text() == "letters"
    assert not list(tmp_path.glob("*.part"))


def test_a_copy_that_broke_off_is_in_the_way_of_none_but_one_that_is_being_made_is(world):
    folder = copies.folder_of_copies(world.database.path)
    folder.mkdir()
    part = folder / "ledger-2026-11-24.sqlite3.part"
    part.touch()
    with pytest.raises(CopyRefused, match="being made"):
        copy_of_the_day(world.database.path, "2026-11-24", 7)
    os.utime(part, (0, 0))
    assert copy_of_the_day(world.database.path, "2026-11-24", 7)
    assert not part.exists()


def test_a_copy_is_put_back_what_was_there_is_kept_and_every_round_rests(world, tmp_path):
    path = world.database.path
    copy = save_copy(path, tmp_path / "copy").path
    world.clock.passed += 20
    world.sender.act()
    at_rest(world)
    later = rows(path)
    kept = put_copy_back(path, copy)
    assert (rows(kept), rows(path)) == (later, rows(copy))
    assert stat.S_IMODE(path.stat().st_mode) == stat.S_IMODE(kept.stat().st_mode) == 0o600
    world.database = Database(path)
    world.database.migrate()
    with world.database.reading() as session:
        found = session.get_one(Round, 1)
        assert (found.stage, "put back" in found.look_first) == (Stage.PAUSED, True)
    world.start()
    assert world.marks() == ["Sent", "Unsure", "To go"]
    world.run(3_000)
    assert world.marks() == ["Sent", "Sent", "To go"]
    assert len(world.carrier.arrived) == 2


def test_even_a_copy_of_just_now_rests_once_it_is_put_back(world, tmp_path):
    copy = save_copy(world.database.path, tmp_path / "copy").path
    at_rest(world)
    put_copy_back(world.database.path, copy)
    world.database = Database(world.database.path)
    world.start()
    world.run()
    assert len(world.carrier.arrived) == 1


@pytest.mark.parametrize("version", sorted(released_versions()))
def test_a_copy_of_any_earlier_version_can_be_put_back(tmp_path, version):
    made = Database(tmp_path / "copy.sqlite3")
    made.migrate(version)
    with closing(sqlite3.connect(made.path)) as earlier:
        columns = [row[1] for row in earlier.execute("PRAGMA table_info(rounds)")]
        values = {"stage": "preparing", "recipe": "{}", "columns": "[]", "file_name": "a.csv", "row_count": 0}
        needed = {
            row[1]: values.get(row[1], "0")
            for row in earlier.execute("PRAGMA table_info(rounds)")
            if row[3] and row[4] is None and not row[5]
        }
        assert set(needed) <= set(columns)
        names = ", ".join(needed)
        earlier.execute(
            f"INSERT INTO rounds (id, {names}) VALUES (5, {', '.join('?' * len(needed))})", [*needed.values()]
        )
        earlier.commit()
    made.leave_tidy()
    put_copy_back(tmp_path / "ledger.sqlite3", tmp_path / "copy.sqlite3")
    assert rows(tmp_path / "ledger.sqlite3", "SELECT id, file_name FROM rounds") == [(5, "a.csv")]
    assert rows(tmp_path / "ledger.sqlite3", "SELECT version_num FROM alembic_version") == [(max(released_versions()),)]


def bent(*statements):
    def bend(path):
        with closing(sqlite3.connect(path, isolation_level=None)) as copy:
            for statement in statements:
                copy.execute(statement)

    return bend


def cut_in_half(path):
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])


def overwritten(path):
    with path.open("r+b") as file:
        file.seek(4096 * 3)
        file.write(b"\xff" * 4096 * 4)


STRANGERS = [
    ("empty", lambda path: path.write_bytes(b""), "is empty"),
    ("no database", lambda path: path.write_text("Name,Mobile\n" * 500), "cannot be read as a ledger"),
    ("cut in half", cut_in_half, "damaged|cannot be read"),
    ("overwritten", overwritten, "damaged|cannot be read"),
    ("another program's", lambda path: (path.unlink(), bent("CREATE TABLE notes (x)")(path)), "no ledger of this"),
    ("a newer version's", bent("UPDATE alembic_version SET version_num = '0999'"), "newer version"),
    ("of no version", bent("DELETE FROM alembic_version"), "newer version"),
    (
        "a trigger more",
        bent("CREATE TRIGGER t AFTER INSERT ON ledger BEGIN DELETE FROM rows; END"),
        "no version of this",
    ),
    ("a trigger less", bent("DROP TRIGGER marks_step_only_as_allowed"), "no version of this"),
    ("a view", bent("CREATE VIEW v AS SELECT 1"), "no version of this"),
    ("a table more", bent("CREATE TABLE more (x)"), "no version of this"),
    ("a column more", bent("ALTER TABLE rounds ADD COLUMN more TEXT"), "no version of this"),
    ("an index less", bent("DROP INDEX messages_to_go"), "no version of this"),
    ("a reference to nothing", bent("PRAGMA foreign_keys=OFF", "DELETE FROM rounds"), "belongs to nothing"),
]


@pytest.mark.parametrize(("_what", "bend", "why"), STRANGERS, ids=[case[0] for case in STRANGERS])
def test_a_stranger_is_refused_and_nothing_is_changed(world, tmp_path, _what, bend, why):
    copy = save_copy(world.database.path, tmp_path / "copy").path
    bend(copy)
    at_rest(world)
    before = world.database.path.read_bytes()
    with pytest.raises(CopyRefused, match=why):
        put_copy_back(world.database.path, copy)
    assert world.database.path.read_bytes() == before
    left = sorted(p.name for p in tmp_path.iterdir() if ".before-" in p.name or ".put-back" in p.name)
    assert left == []


def test_nothing_is_put_back_while_the_program_runs_or_over_itself(world, tmp_path):
    path = world.database.path
    copy = save_copy(path, tmp_path / "copy").path
    with pytest.raises(CopyRefused, match="running"):
        put_copy_back(path, copy)
    at_rest(world)
    with serving(path, "http://127.0.0.1:1"), pytest.raises(CopyRefused, match="running"):
        put_copy_back(path, copy)
    os.link(path, tmp_path / "linked")
    with pytest.raises(CopyRefused, match="the ledger itself"):
        put_copy_back(path, tmp_path / "linked")


def test_a_damaged_ledger_is_kept_as_it_lies_there(world, tmp_path):
    path = world.database.path
    copy = save_copy(path, tmp_path / "copy").path
    at_rest(world)
    overwritten(path)
    damaged = path.read_bytes()
    kept = put_copy_back(path, copy)
    assert kept.read_bytes() == damaged
    assert rows(path) == rows(copy)


def test_the_commands(world, tmp_path, monkeypatch, capsys):
    path = world.database.path
    monkeypatch.setenv("GENTLE_LEDGER_DATA", str(path))
    copy = tmp_path / "a copy"
    assert main(["backup", str(copy)]) == 0
    assert main(["backup", str(copy)]) == 2
    assert "no copy is made over it" in capsys.readouterr().err
    assert main(["restore", str(copy), "--yes"]) == 2
    at_rest(world)
    shutil.copy(path, tmp_path / "before")
    monkeypatch.setattr("builtins.input", lambda _asked: "no")
    assert main(["restore", str(copy)]) == 2
    assert path.read_bytes() == (tmp_path / "before").read_bytes()
    monkeypatch.setattr("builtins.input", lambda _asked: "yes")
    assert main(["restore", str(copy)]) == 0
    assert "What was there is kept in" in capsys.readouterr().out
