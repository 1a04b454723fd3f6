"""A disk that is full, a file that may not be written or is locked: said as what it is, and it goes on by itself."""

import sqlite3
import subprocess
import sys
import threading
from contextlib import closing
from pathlib import Path

import pytest

from gentle_ledger.store import database as opened
from gentle_ledger.store.processes import who_writes
from tests.servers import until
from tests.web.office import Office


@pytest.fixture(autouse=True)
def in_a_hurry(monkeypatch):
    monkeypatch.setattr(opened, "BUSY_MS", 100)


def test_pause_answers_in_a_sentence_and_sending_goes_on_by_itself(tmp_path):
    office = Office(tmp_path)
    number = office.started()
    other = sqlite3.connect(office.app.state.context.database.path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    said = "The ledger's file is locked for long by this program itself"
    assert said in office.call("POST", f"/api/rounds/{number}/pause", 503)["detail"]
    looked = threading.Event()

    def wait(_woken, _seconds):
        if not looked.is_set():
            looked.set()
            tally = office.call("GET", f"/api/rounds/{number}/tally")
            assert said in tally["away"]["reason"]
            assert tally["away"]["since"]
            other.close()
        elif office.call("GET", f"/api/rounds/{number}/tally")["stage"] == "finished":
            office.loop.stop()
        office.clock.passed += 5

    office.clock.wait = wait
    office.loop.run()
    tally = office.call("GET", f"/api/rounds/{number}/tally")
    assert (tally["stage"], tally["strokes"]) == ("finished", "ss")
    assert len(office.carrier.arrived) == 2
    office.app.state.context.database.close()


HOLD = """
import sqlite3, sys
other = sqlite3.connect(sys.argv[1], isolation_level=None)
other.execute("BEGIN IMMEDIATE")
input()
"""


HOLD_INDEX = """
import fcntl, sys
index = open(sys.argv[1], "rb+")
fcntl.lockf(index, fcntl.LOCK_EX, 1, 121)
print(flush=True)
input()
"""
PIPES = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE}


def test_who_keeps_the_ledger_locked_is_named(office):
    number = office.started()
    path = office.app.state.context.database.path
    with subprocess.Popen([sys.executable, "-c", HOLD, str(path)], stdin=subprocess.PIPE) as other:
        until(lambda: who_writes(path) is not None, "the lock")
        name = Path(f"/proc/{other.pid}/comm").read_text().strip()
        said = office.call("POST", f"/api/rounds/{number}/pause", 503)["detail"]
        other.communicate(b"\n")
    assert said == (
        f"The ledger's file is locked by another program, {name}, process {other.pid}. "
        "End what that program does with it; it goes on then by itself."
    )
    with closing(sqlite3.connect(path)) as reader:
        reader.execute("BEGIN")
        reader.execute("SELECT * FROM rounds").fetchone()
        assert who_writes(path) is None, "who only reads keeps nobody from writing"
    with subprocess.Popen([sys.executable, "-c", HOLD_INDEX, f"{path}-shm"], **PIPES) as other:
        other.stdout.readline()
        assert who_writes(path) is None, "nor does who brings the log into the file"
        other.communicate(b"\n")
        office.call("POST", f"/api/rounds/{number}/pause")


@pytest.mark.parametrize(
    ("said_by_sqlite", "status", "said"),
    [
        ("database or disk is full", 507, "The disk is full"),
        ("attempt to write a readonly database", 507, "may not be written"),
        ("unable to open database file", 507, "cannot be opened"),
        ("disk I/O error", 507, "answers with errors"),
        ("database disk image is malformed", 500, "damaged"),
        ("no such table: rounds", 500, "inside the program"),
    ],
)
def test_what_the_store_cannot_do_is_a_sentence(office, monkeypatch, said_by_sqlite, status, said):
    from sqlalchemy.exc import OperationalError

    number = office.started()

    def writing():
        raise OperationalError("INSERT", {}, sqlite3.OperationalError(said_by_sqlite))

    monkeypatch.setattr(office.app.state.context.database, "writing", writing)
    answer = office.call("POST", f"/api/rounds/{number}/pause", status)
    assert said in answer["detail"]
    assert "sqlite" not in str(answer).lower()


def test_a_full_disk_for_real(office):
    """SQLite's own limit of pages: a write fails just as on a full disk, and nothing that was there is lost."""
    number = office.started()
    database = office.app.state.context.database
    with database.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar_one()
    many = "Name,Mobile\n" + "".join(f"P{i},902-555-01{i % 100:02}\n" for i in range(5_000))
    whole = opened._prepare

    def narrow(connection, record):
        whole(connection, record)
        connection.execute(f"PRAGMA max_page_count={pages}")

    from sqlalchemy import event

    event.listen(database.engine, "connect", narrow)
    database.engine.dispose()
    answer = office.call("POST", "/api/rounds", 507, files={"file": ("a.csv", many)})
    assert "The disk is full" in answer["detail"]
    event.remove(database.engine, "connect", narrow)
    database.engine.dispose()
    assert office.call("GET", f"/api/rounds/{number}/tally")["stage"] == "sending"
    assert office.call("POST", "/api/rounds", 201, files={"file": ("a.csv", many)})["rows"] == 5_000
    with closing(sqlite3.connect(database.path)) as look:
        assert look.execute("PRAGMA integrity_check").fetchone() == ("ok",)
