"""The sender as a process of its own: it outlives the server, ends with Ctrl+C, and goes by what was set."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from gentle_ledger.cli import sending
from gentle_ledger.cli.sending import SenderWatch, Wanted, as_environment, fingerprint_of, run_sender
from gentle_ledger.store import processes
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import CannotOpen
from gentle_ledger.store.places import note_place
from gentle_ledger.store.processes import Seen, end_surely, seen, tell_to_end, this_process
from gentle_ledger.store.senders import sender_lock
from gentle_ledger.store.serving import is_served, serving, was_ended
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.web.settings import Settings, read_settings
from tests.servers import harbour, until


def lives(process):
    """Whether a process runs; one that has ended and that nobody has asked about (proc(5), state Z) does not."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except FileNotFoundError:
        return False


def test_it_outlives_a_dead_server_goes_by_new_settings_and_ends_when_that_is_told_to(tmp_path):
    with (
        harbour(tmp_path) as office,
        office.client() as http,
    ):
        rows = "".join(f"P{i},902-555-01{i:02}\n" for i in range(90))
        number = http.post("/api/rounds", files={"file": ("a.csv", f"Name,Mobile\n{rows}")}).json()["id"]
        path = f"/api/rounds/{number}"
        http.put(f"{path}/wording", json={"wording": "Hello {Name}", "row": 1})
        http.patch(path, json={"pace": {"every": 0.5, "give_or_take": 0}})
        http.post(f"{path}/start", json={"seal": http.get(f"{path}/confirmation").json()["seal"]})
        until(office.arrived, "the first text")
        first = office.sender()
        office.program.kill()
        there = len(office.arrived())
        until(lambda: len(office.arrived()) >= there + 2, "texts without a server")
        office.start()
        assert office.sender() == first, "the same one goes on"
        # Other settings: the sender of the old ones gives way to one of the new ones.
        office.program.kill()
        office.env = lambda env=office.env: env() | {"GENTLE_LEDGER_CARRIER_TIMEOUT": "2"}
        office.start()
        second = until(lambda: (now := office.sender()) not in {None, first} and now, "a sender of the new settings")
        until(lambda: not lives(first), "the end of the first one")
        there = len(office.arrived())
        until(lambda: len(office.arrived()) > there, "texts by the new one")
        # A service manager's word ends it too, with a page open; what is going goes on at the next start by itself.
        with http.stream("GET", f"{path}/events"):
            told, before = time.monotonic(), office.program.process
            before.send_signal(signal.SIGTERM)
            before.wait(20)
        assert time.monotonic() - told < 5
        assert not lives(second)
        assert office.sender() is None
        there = len(office.arrived())
        office.start()
        until(lambda: len(office.arrived()) > there, "texts after the next start")
        second = office.sender()
        office.program.end()
        until(lambda: not lives(second), "the end of the sender")
        assert office.sender() is None
        arrived = office.arrived()
        assert len(arrived) == len(set(arrived)), "and nothing went twice"


def test_one_that_was_started_apart_goes_on_without_the_server(tmp_path):
    with harbour(tmp_path) as office, office.apart() as sender:
        until(lambda: office.sender() == sender.pid, "its turn")
        office.program.process.send_signal(signal.SIGTERM)
        office.program.process.wait(20)
        assert office.sender() == sender.pid
        office.start()
        office.program.end()
        assert office.sender() == sender.pid


@pytest.fixture
def clock(monkeypatch):
    now = [100.0]
    monkeypatch.setattr(time, "monotonic", lambda: now[0])
    return now


CASES = [
    # served, ended by somebody, idle, sends; whether it is still wanted after a minute and a half, why
    (True, False, True, True, True, "the interface is served"),
    (False, False, False, True, True, "the server died in the middle of a round"),
    (False, False, True, True, False, "the server died, and there is nothing to do"),
    (False, True, False, True, False, "the server was ended and did not come back"),
]


@pytest.mark.parametrize(("served", "ended", "idle", "sends", "wanted", "why"), CASES, ids=[case[5] for case in CASES])
def test_a_sender_is_wanted(tmp_path, clock, served, ended, idle, sends, wanted, why):
    settings = Settings(data=tmp_path / "l.sqlite3")
    if ended:
        with serving(settings.data, "http://127.0.0.1:1"):
            pass
    found = Wanted(settings, os.getppid())

    def look():
        assert found(sends, idle), "at first it is, whatever is"
        clock[0] += sending.ALONE - 1
        assert found(sends, idle), "a restart takes a while"
        clock[0] += 30
        return found(sends, idle)

    if served:
        with serving(settings.data, "http://127.0.0.1:1"):
            assert is_served(settings.data)
            assert look() == wanted
    else:
        assert look() == wanted
    assert was_ended(settings.data) == (ended or served)


def test_one_that_stands_by_ends_with_the_server_that_started_it(tmp_path, monkeypatch):
    found = Wanted(Settings(data=tmp_path / "l.sqlite3"), os.getppid())
    assert found(False, True)
    monkeypatch.setattr(os, "getppid", lambda: 1)
    assert not found(False, True)
    assert found(True, True), "and the one that sends goes on"
    late = Wanted(Settings(data=tmp_path / "l.sqlite3"), 12345)
    assert not late(False, True), "one whose server was gone before it looked"


def test_a_sender_is_given_the_settings_of_its_server(tmp_path, monkeypatch):
    given = Settings(data=tmp_path / "l.sqlite3", prices={"US": "0.05"}, price_per_part="0.04", zone="America/Halifax")
    for name, value in as_environment(given).items():
        monkeypatch.setenv(name, value)
    assert read_settings() == given
    assert fingerprint_of(given) == fingerprint_of(read_settings())
    assert fingerprint_of(given) == fingerprint_of(given.model_copy(update={"port": 1})), (
        "who is served where is no matter"
    )
    assert fingerprint_of(given) != fingerprint_of(given.model_copy(update={"sender": "Other"}))


HOLDS = "import fcntl, os, sys; fcntl.flock(os.open(sys.argv[1], os.O_RDWR), fcntl.{}); print(flush=True); input()"


@pytest.mark.parametrize(("lock", "ended"), [("LOCK_EX", True), ("LOCK_SH", False)])
@pytest.mark.parametrize("ours", [True, False])
def test_a_sender_of_an_earlier_version_is_told_by_the_lock_that_it_alone_holds(tmp_path, lock, ended, ours):
    ledger = tmp_path / "l.sqlite3"
    sender_lock(ledger).touch()
    command = [sys.executable, "-c", HOLDS.format(lock), str(sender_lock(ledger)), "gentle_ledger" if ours else "else"]
    with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE) as holder:
        holder.stdout.readline()
        sending.end_earlier_version(ledger)
        assert (holder.poll() == -signal.SIGTERM) == (ended and ours)
        holder.kill()


def test_no_other_process_is_ended():
    """A name tells number and start: another process that got the number since is left alone."""
    with subprocess.Popen([sys.executable, "-c", "input()"], stdin=subprocess.PIPE) as sleeper:
        place, _, _, serial = this_process().split("/")
        name = f"{place}/{sleeper.pid}/{processes._start_of(sleeper.pid)}/{serial}"
        since = f"{place}/{sleeper.pid}/12345/{serial}"
        elsewhere = f"of another machine/{sleeper.pid}/{name.split('/')[2]}/{serial}"
        assert [seen(each) for each in (name, since, elsewhere)] == [Seen.RUNS, Seen.GONE, Seen.ELSEWHERE]
        assert (end_surely(since), tell_to_end(since)) == (True, False)
        assert (end_surely(elsewhere), tell_to_end(elsewhere)) == (False, False)
        assert sleeper.poll() is None
        sleeper.send_signal(signal.SIGSTOP)
        until(lambda: seen(name) is Seen.STOPPED, "the stop")
        assert end_surely(name), "one that is stopped as well"
        assert seen(name) is Seen.GONE
        assert sleeper.wait(5) == -signal.SIGKILL


def test_why_a_sender_cannot_begin_is_known_to_whoever_starts_it_until_one_has_begun(tmp_path, monkeypatch):
    database, told = Database(tmp_path / "l.sqlite3"), ChangeSignal()
    database.migrate()
    (tmp_path / "a folder").mkdir()
    good = read_settings(data=database.path, state=tmp_path / "state")
    watch = SenderWatch(good.model_copy(update={"data": tmp_path / "a folder"}), database, 1, told)
    with monkeypatch.context() as without:
        # An end at once that gives no reason is not silent either.
        without.setattr(sending.sys, "executable", "false")
        until(lambda: watch._look() or "as soon as it begins" in told.no_sender.reason, "that it ends at once")
    since = told.no_sender.since
    until(lambda: watch._look() or "Is a directory" in told.no_sender.reason, "the reason")
    assert told.no_sender.since == since
    for each in watch._children:
        each.process.wait()
    # One that is slow has not begun, however long it is there.
    slow = sending._Started(time.monotonic() - 9, subprocess.Popen(["sleep", "60"]), os.pipe()[0])
    watch._children, watch._not_before = [slow], time.monotonic() + 60
    watch._look()
    assert told.no_sender.reason
    watch._settings, watch._not_before = good, 0.0
    until(lambda: watch._look() or not told.no_sender.reason, "a sender that has begun")
    watch.end(5)
    database.close()


def test_a_sender_alone_begins_no_ledger_where_one_was(tmp_path):
    settings = read_settings(data=tmp_path / "disk" / "l.sqlite3", state=tmp_path / "state")
    note_place(settings.data, settings.state)
    with pytest.raises(CannotOpen, match="See whether its disk is there"):
        run_sender(settings)
    assert not settings.data.parent.exists()


def test_a_ledger_that_is_opened_by_a_link_goes_by_its_own_name(tmp_path, monkeypatch):
    (tmp_path / "office").mkdir()
    (tmp_path / "link").symlink_to("office")
    (tmp_path / "office" / "second.sqlite3").symlink_to("l.sqlite3")
    own = tmp_path / "office" / "l.sqlite3"
    monkeypatch.chdir(tmp_path / "link")
    for shown in (own, tmp_path / "link" / "l.sqlite3", own.with_name("second.sqlite3"), Path("l.sqlite3")):
        assert read_settings(data=shown).data == own
    monkeypatch.delenv("GENTLE_LEDGER_DATA", raising=False)
    assert read_settings().data == tmp_path / "office" / "data" / "ledger.sqlite3"
    (tmp_path / "round").symlink_to("round")
    assert read_settings(data=tmp_path / "round").data.name == "round", "refused when it is opened, with a sentence"
