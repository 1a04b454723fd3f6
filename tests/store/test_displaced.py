"""A ledger that is replaced or removed while it is open: nothing more is written, and neither file is damaged."""

import os
import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import CannotOpen, Displaced
from gentle_ledger.store.places import note_place, other_places, refuse_where_one_was
from tests.sending.world import World


@pytest.fixture
def world(tmp_path):
    made = World(tmp_path, witnessed=True)
    made.sender.act()
    return made


def sound(path):
    with closing(sqlite3.connect(path)) as look:
        assert look.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        return look.execute("SELECT mark, count(*) FROM messages GROUP BY mark ORDER BY mark").fetchall()


WAYS = {
    "put over it": lambda world, copy: os.replace(copy, world.database.path),
    "removed": lambda world, copy: world.database.path.unlink(),
    "moved away": lambda world, copy: world.database.path.rename(f"{world.database.path}.away"),
}


@pytest.mark.parametrize("way", WAYS)
def test_nothing_more_is_written_or_sent_and_what_was_open_is_kept(world, tmp_path, way):
    path = world.database.path
    copy = world.copy(tmp_path / "copy")
    world.clock.passed += 20
    world.sender.act()
    before = sound(path)
    WAYS[way](world, copy)
    for ways_in in (world.database.reading, world.database.writing, world.database.writing_bare, world.sender.act):
        with pytest.raises(Displaced, match="nothing more is sent or written"):
            ways_in() if ways_in == world.sender.act else ways_in().__enter__()
    assert len(world.carrier.arrived) == 2
    (kept,) = [found for found in tmp_path.iterdir() if ".was-open-" in found.name]
    assert sound(kept) == before, "with all that stood in its write-ahead log"
    assert not Path(f"{path}-wal").exists(), "the other file has no share in it"
    if way == "put over it":
        assert sound(path) == [("Sent", 1), ("To go", 2)]
        world.database.close()
        world.database = Database(path)
        world.start()
        assert world.marks() == ["Sent", "Unsure", "To go"], "and it is known to be older"
    else:
        with pytest.raises(CannotOpen, match="there was a ledger here"):
            Database(path)
        assert not path.exists()


@pytest.mark.parametrize("way", ["written by another", "copied", "its rights changed"])
def test_what_is_still_the_same_file_stays_open(world, tmp_path, way):
    if way == "written by another":
        other = Database(world.database.path)
        with other.writing() as session:
            session.connection().exec_driver_sql("UPDATE rounds SET note = 'x'")
        other.close()
    elif way == "copied":
        shutil.copy(world.database.path, tmp_path / "copy")
    else:
        world.database.path.chmod(0o640)
    world.run()
    assert world.marks() == ["Sent"] * 3


def test_a_ledger_begins_empty_only_where_none_was(tmp_path):
    Database(tmp_path / "new.sqlite3").migrate()
    path = tmp_path / "gone.sqlite3"
    Path(f"{path}-wal").touch()
    Database(path).close()
    path.unlink()
    Path(f"{path}.handed-over").write_text("ledger\tx\ty\n")
    with pytest.raises(CannotOpen, match="handed-over"):
        Database(path)
    Path(f"{path}.handed-over").unlink()
    Database(path).close()


@pytest.mark.parametrize("way", ["its folder is gone", "it is gone", "it is empty", "it is there", "never there"])
def test_a_ledger_that_was_opened_here_is_not_begun_anew_where_its_whole_folder_is_gone(tmp_path, way):
    path, state = tmp_path / "disk" / "l.sqlite3", tmp_path / "state"
    if way != "never there":
        database = Database(path)
        database.migrate()
        database.leave_tidy()
        note_place(path, state)
    if way == "its folder is gone":
        path.parent.rename(tmp_path / "away")
    elif way == "it is gone":
        path.unlink()
    elif way == "it is empty":
        path.write_bytes(b"")
    if way in {"it is there", "never there"}:
        refuse_where_one_was(path, state)
        return
    with pytest.raises(CannotOpen, match="See whether its disk is there") as refused:
        refuse_where_one_was(path, state)
    refuse_where_one_was(path.with_name("another"), state)
    # What it says to do is what lets an empty one begin.
    [note] = (state / "places").iterdir()
    assert str(note) in refused.value.sentence
    note.unlink()
    refuse_where_one_was(path, state)


def test_other_ledgers_of_the_user_are_known_by_where_they_lie(tmp_path):
    paths = [tmp_path / "a" / "l.sqlite3", tmp_path / "b" / "l.sqlite3", tmp_path / "gone" / "l.sqlite3"]
    for path in paths:
        Database(path).migrate()
        note_place(path, tmp_path / "state")
    shutil.rmtree(paths[2].parent)
    assert other_places(paths[0], tmp_path / "state") == [paths[1]]
    assert other_places(paths[0], tmp_path / "no state") == []
