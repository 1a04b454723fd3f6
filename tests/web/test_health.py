"""How the program is, for whoever runs it: what is well, what is not, and nothing of anybody's sheet."""

import json
import os
import sqlite3
import time
from contextlib import closing
from datetime import UTC, datetime

import pytest

from gentle_ledger import __version__
from gentle_ledger.cli.asking import NotServed, health, new_address
from gentle_ledger.cli.program import assemble
from gentle_ledger.store import database as opened
from gentle_ledger.store.copies import copy_of_the_day
from gentle_ledger.store.errors import CannotOpen, Trouble
from gentle_ledger.store.key import key_to_serve
from gentle_ledger.store.places import note_place
from gentle_ledger.store.serving import serving
from gentle_ledger.web.sending.view import pulse_of
from gentle_ledger.web.settings import Settings
from tests.web.office import POOL


@pytest.fixture
def sends(office, monkeypatch):
    """The sender has its turn and says that it is there."""
    office.sender.begin()
    office.loop._say_present()
    return office


def test_all_is_well(sends):
    copy_of_the_day(sends.app.state.context.database.path, "2026-11-24", 7)
    found = sends.call("GET", "/api/health")
    assert (found["well"], found["writable"], found["version"], found["trouble"]) == (True, True, __version__, "")
    [line] = found["lines"]
    assert (line["line"], line["sender"], line["in_use"], line["going"]) == ("Quay Office at the quay", True, True, 0)
    assert line["heard"] < 5
    assert found["last_copy"] is not None
    assert found["said"][-1] == "All is well."


def test_a_ledger_that_is_locked_is_said_at_once_and_by_whom(sends):
    with closing(sqlite3.connect(sends.app.state.context.database.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        before = time.monotonic()
        found = sends.call("GET", "/api/health")
        assert time.monotonic() - before < opened.BUSY_MS / 2_000
    assert (found["well"], found["writable"]) == (False, False)
    assert f"process {os.getpid()}" in found["trouble"]
    assert found["trouble"] in found["said"][1]
    assert sends.call("GET", "/api/health")["well"]


def test_one_that_was_replaced_is_said(sends):
    path = sends.app.state.context.database.path
    path.rename(path.with_name("elsewhere"))
    found = sends.call("GET", "/api/health")
    assert not found["well"]
    assert "is gone from its place" in found["trouble"]


def test_who_does_not_send_is_said(office):
    number = office.started()
    found = office.call("GET", "/api/health")
    assert not found["well"]
    assert [(line["sender"], line["going"]) for line in found["lines"]] == [(False, 1)]
    assert "no sender runs" in found["said"][2]
    assert "1 round going" in found["said"][2]
    office.call("POST", f"/api/rounds/{number}/pause")
    office.sender.begin()
    assert office.call("GET", "/api/health")["well"]


def test_that_no_sender_can_begin_is_said_where_none_is_there(office):
    number = office.started()
    why = "The ledger's file may not be written. Give this program the right to write it."
    context, since = office.app.state.context, datetime(2026, 11, 24, 12, 0, tzinfo=UTC)
    before = pulse_of(context, number)
    context.signal.no_sender = Trouble(why, since)
    assert pulse_of(context, number) != before, "open pages hear of it"
    away = office.call("GET", f"/api/rounds/{number}/tally")["away"]
    assert (away["reason"], away["since"]) == (why, "2026-11-24T12:00:00Z")
    assert f"{why} So it is since" in office.call("GET", "/api/health")["said"][2]
    office.sender.begin()
    office.loop._say_present()
    assert office.call("GET", f"/api/rounds/{number}/tally")["away"] is None, "one is there, whoever started it"
    assert office.call("GET", "/api/health")["well"]


def test_a_copy_that_cannot_be_made_is_said(sends):
    sends.app.state.context.signal.copy_trouble = "No copy: the disk is full."
    found = sends.call("GET", "/api/health")
    assert not found["well"]
    assert "No copy: the disk is full." in found["said"][3]


def test_nothing_of_a_sheet_is_in_it(sends):
    sends.started()
    sends.run(60)
    said = json.dumps(sends.call("GET", "/api/health"))
    for secret in ("Ines", "C14", "186.40", "902-555-0128", "+19025550128"):
        assert secret not in said


def test_who_asks_where_nobody_serves_is_told(tmp_path, monkeypatch):
    ledger = tmp_path / "ledger.sqlite3"
    monkeypatch.setenv("GENTLE_LEDGER_DATA", str(ledger))
    for ask in (health, new_address):
        with pytest.raises(NotServed, match="does not run"):
            ask(None)
    # Whoever listens in the server's place is not sent the key.
    with serving(ledger, "http://127.0.0.1:9"):
        key = key_to_serve(ledger)
        with pytest.raises(NotServed, match="does not answer at"):
            health(None)
        assert key not in new_address(None)
        assert new_address(None).startswith("http://127.0.0.1:9/in#")
        assert new_address(8_123).startswith("http://127.0.0.1:8123/in#")


def test_a_new_ledger_names_the_others_of_its_user_and_one_with_rounds_does_not(office, tmp_path):
    other = tmp_path / "office" / "ledger.sqlite3"
    database = opened.Database(other)
    database.migrate()
    database.close()
    note_place(other, office.app.state.context.settings.state)
    assert str(other) in office.call("GET", "/api/copies")["others"]
    office.started()
    assert office.call("GET", "/api/copies")["others"] == []


def test_an_office_is_not_begun_anew_where_its_disk_is_not_there_and_the_demo_is(tmp_path):
    settings = Settings(data=tmp_path / "disk" / "ledger.sqlite3", state=tmp_path / "state", port=8090)
    for keyed in (True, False):
        assemble(settings, pool=POOL, keyed=keyed).database.leave_tidy()
    settings.data.parent.rename(tmp_path / "away")
    with pytest.raises(CannotOpen, match="See whether its disk is there"):
        assemble(settings, pool=POOL, keyed=True)
    assert not settings.data.parent.exists()
    (tmp_path / "away").rename(settings.data.parent)
    assemble(settings, pool=POOL, keyed=True).database.leave_tidy()
    demo = settings.model_copy(update={"data": tmp_path / "demo" / "ledger.sqlite3"})
    for turn in range(2):
        assemble(demo, pool=POOL).database.leave_tidy()
        demo.data.parent.rename(tmp_path / f"demo-{turn}")
