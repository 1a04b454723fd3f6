"""Bad days with real processes: a sender that hangs, files that are taken away or put back, two programs at once."""

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from collections import Counter
from contextlib import closing, contextmanager
from itertools import pairwise

import pytest

from tests.servers import Process, free_port, harbour, until
from tests.web.test_sender_process import lives

GAP = 0.3


@pytest.fixture
def office(tmp_path):
    with harbour(tmp_path) as office:
        yield office


@pytest.fixture
def http(office):
    with office.client() as client:
        yield client


def begin_round(http, rows, area="902"):
    sheet = "Name,Mobile\n" + "".join(f"P{i},{area}-555-01{i:02}\n" for i in range(rows))
    number = http.post("/api/rounds", files={"file": ("a.csv", sheet)}).json()["id"]
    path = f"/api/rounds/{number}"
    http.put(f"{path}/wording", json={"wording": "Hello {Name}", "row": 1})
    http.patch(path, json={"pace": {"every": GAP, "give_or_take": 0}})
    http.post(f"{path}/start", json={"seal": http.get(f"{path}/confirmation").json()["seal"]}).raise_for_status()
    return path


def tally(http, path):
    return http.get(f"{path}/tally").json()


def ended(office, http, path, rows):
    """Lets it come to its end, as a clerk would, and counts at the carrier."""

    def over():
        now = tally(http, path)
        if now["stage"] == "paused":
            http.post(f"{path}/go-on", json={"looked": bool(now["look_first"])})
        elif now["may_try_again"]:
            again = {"which": "failed", "texts": now["may_try_again"], "seal": now["seal_of_failed"], "looked": True}
            http.post(f"{path}/again", json=again)
        return now["stage"] == "finished" and now["counts"] == [{"mark": "Sent", "rows": rows}]

    until(over, "the end of the round", seconds=60)
    arrived = Counter(office.arrived())
    assert (len(arrived), set(arrived.values())) == (rows, {1})


def gaps(office):
    with closing(sqlite3.connect(office.folder / "ledger.sqlite3")) as ledger:
        found = ledger.execute("SELECT (julianday(at) - 2440587.5) * 86400.0 FROM attempts ORDER BY id").fetchall()
    return [b - a for (a,), (b,) in pairwise(found)]


def test_a_sender_that_hangs_is_said_and_replaced_within_half_a_minute(office, http):
    path = begin_round(http, 40)
    until(lambda: len(office.arrived()) >= 3, "the first texts")
    hung, at = office.sender(), time.monotonic()
    os.kill(hung, signal.SIGSTOP)
    said = until(lambda: (tally(http, path)["away"] or {}).get("reason"), "that it says nothing", seconds=15)
    assert "does not say anything any more" in said
    until(lambda: office.sender() not in {None, hung}, "another sender")
    assert time.monotonic() - at < 30
    assert not lives(hung), "it was ended first, and not left to wake up"
    until(lambda: tally(http, path)["away"] is None, "that nothing hinders it any more")
    ended(office, http, path, 40)
    assert min(gaps(office)) >= GAP * 0.99
    # Ctrl+C ends one that hangs as well.
    hung = office.sender()
    os.kill(hung, signal.SIGSTOP)
    office.program.end()
    assert not lives(hung)


def test_without_the_files_that_stand_beside_the_ledger_there_is_still_one_sender(office, http):
    path = begin_round(http, 30)
    until(lambda: len(office.arrived()) >= 3, "the first texts")
    for name in ("ledger.sqlite3.sender", "ledger.sqlite3.sender-1", "ledger.sqlite3.serving"):
        (office.folder / name).unlink()
    apart = [sys.executable, "-m", "gentle_ledger.cli", "sender"]
    other = subprocess.Popen(apart, env={**os.environ, **office.env()}, stdout=subprocess.DEVNULL)
    try:
        ended(office, http, path, 30)
    finally:
        other.terminate()
        other.wait(20)
    assert min(gaps(office)) >= GAP * 0.99


def test_a_file_put_over_the_open_ledger_stops_everything_and_asks_at_the_next_start(office, http):
    path = begin_round(http, 20)
    ledger, copy = office.folder / "ledger.sqlite3", office.folder / "copy"
    until(lambda: len(office.arrived()) >= 3, "the first texts")
    with closing(sqlite3.connect(ledger)) as open_one, closing(sqlite3.connect(copy)) as made:
        open_one.backup(made)
    until(lambda: len(office.arrived()) >= 6, "more texts")
    os.replace(copy, ledger)
    refused = until(lambda: (got := http.get(f"{path}/tally")).status_code == 503 and got.json(), "that it is said")
    assert "was replaced by another file" in refused["detail"]
    until(lambda: office.sender() is None, "the end of the senders")
    there = len(office.arrived())
    office.program.end()
    with closing(sqlite3.connect(ledger)) as look:
        assert look.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    office.start()
    until(lambda: tally(http, path)["look_first"], "the question")
    assert len(office.arrived()) == there
    ended(office, http, path, 20)


def test_a_ledger_that_is_gone_is_not_begun_anew_without_a_word(office, http):
    path = begin_round(http, 20)
    until(lambda: len(office.arrived()) >= 2, "the first texts")
    (office.folder / "ledger.sqlite3").unlink()
    until(lambda: http.get(f"{path}/tally").status_code == 503, "that it is said")
    until(lambda: office.sender_processes() == [], "the end of the senders")
    there = len(office.arrived())
    office.program.end()
    command = [sys.executable, "-m", "gentle_ledger.cli", "serve", "--port", str(office.port)]
    env = {**os.environ, **office.env()}
    anew = subprocess.run(command, env=env, capture_output=True, text=True, timeout=30, check=False)
    assert anew.returncode == 2
    assert "there was a ledger here" in anew.stderr
    kept = next(found for found in office.folder.iterdir() if ".was-open-" in found.name)
    shutil.copy(kept, office.folder / "ledger.sqlite3")
    office.start()
    ended(office, http, path, 20)
    assert len(office.arrived()) > there


@contextmanager
def another_program(office):
    """On the same ledger, with another carrier: the same stand-in under another address."""
    port = free_port()
    other = {"GENTLE_LEDGER_CARRIER_URL": f"http://localhost:{office.carrier_port}/messaging/v1"}
    url = f"http://127.0.0.1:{port}"
    second = Process("serve", "--port", str(port), env=office.env() | other, url=f"{url}/api/rounds").answering()
    try:
        with office.client(url) as client:
            yield client
    finally:
        second.end()


def test_two_programs_with_different_carriers_each_send_what_was_confirmed_for_theirs(office, http):
    path = begin_round(http, 16)
    until(lambda: len(office.arrived()) >= 2, "the first texts")
    with another_program(office) as second:
        theirs = begin_round(second, 8, area="506")
        until(lambda: tally(second, theirs)["stage"] == "finished", "the end of the second round")
        until(lambda: tally(http, path)["stage"] == "finished", "the end of the first round")
        with closing(sqlite3.connect(office.folder / "ledger.sqlite3")) as ledger:
            by = ledger.execute(
                "SELECT m.round_id, l.identity, count(*) FROM attempts a JOIN messages m ON m.id = a.message_id "
                "JOIN lines l ON l.id = a.line_id GROUP BY 1, 2 ORDER BY 1"
            ).fetchall()
    assert [(n, "localhost" in identity, texts) for n, identity, texts in by] == [(1, False, 16), (2, True, 8)]
    assert set(Counter(office.arrived()).values()) == {1}
