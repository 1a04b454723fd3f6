"""Real servers for tests: the program and the stand-in carrier, each a process or a thread on a free port."""

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx

from gentle_ledger.carrier.records import Records
from gentle_ledger.store.database import Database
from gentle_ledger.store.key import read_key
from gentle_ledger.store.processes import Seen, process_id, seen
from gentle_ledger.store.senders import turns
from gentle_ledger.web.keyring import Keyring

PATIENCE = 30


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def until(ready, what: str, seconds: float = PATIENCE):
    """Looks until something is so, and gives back what was seen; a failure names what never came."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if found := ready():
            return found
        time.sleep(0.02)
    raise AssertionError(f"never came: {what}")


def answers(url: str) -> bool:
    try:
        return httpx.get(url, timeout=2).status_code < 500
    except httpx.HTTPError:
        return False


class Process:
    """One of the program's commands, running; `kill` is SIGKILL."""

    def __init__(self, *command: str, env: dict[str, str] | None = None, url: str) -> None:
        self.url = url
        full = [sys.executable, "-m", "gentle_ledger.cli", *command]
        self.process = subprocess.Popen(full, env={**os.environ, **(env or {})}, stdout=subprocess.DEVNULL)

    def answering(self) -> "Process":
        """The same, once it answers."""
        until(lambda: answers(self.url), f"an answer at {self.url}", 2 * PATIENCE)
        return self

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(10)

    def end(self) -> None:
        """Ctrl+C: everything that it started ends with it."""
        if self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
            self.process.wait(20)


def let_in(base: str, ledger: Path) -> tuple[str, str, str]:
    """Lets a browser in at a program: the name of its cookie, that cookie, and the value that its changes carry."""
    port = int(base.rpartition(":")[2])
    code = Keyring(read_key(ledger), port).new_code()
    answer = httpx.post(f"{base}/api/way-in", json={"code": code}, headers={"origin": base}, timeout=PATIENCE)
    answer.raise_for_status()
    name = f"gentle-ledger-{port}"
    return name, answer.cookies[name], answer.json()["value"]


class Harbour:
    """The program and its carrier over one folder; the program can be killed and started again."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.port, self.carrier_port = free_port(), free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.carrier_url = f"http://127.0.0.1:{self.carrier_port}"
        # Each takes seconds to start, and neither needs the other for that.
        self.carrier, self.program = self._carrier(), self._program()
        self.carrier.answering()
        self.program.answering()

    @property
    def ledger(self) -> Path:
        return self.folder / "ledger.sqlite3"

    @property
    def own(self) -> dict[str, str]:
        """What a request has that comes from a program with the key."""
        return {"origin": self.url, "authorization": f"Bearer {read_key(self.ledger)}"}

    def client(self, url: str = "") -> httpx.Client:
        """A program with the key, at this one's address or at another one over the same ledger."""
        at = url or self.url
        return httpx.Client(base_url=at, timeout=20, headers={**self.own, "origin": at})

    def _carrier(self) -> Process:
        data = str(self.folder / "carrier.sqlite3")
        command = ["carrier", "--port", str(self.carrier_port), "--data", data, "--hang", "20"]
        return Process(*command, url=self.carrier_url)

    def start_carrier(self) -> Process:
        self.carrier = self._carrier().answering()
        return self.carrier

    def env(self) -> dict[str, str]:
        return {
            "GENTLE_LEDGER_DATA": str(self.folder / "ledger.sqlite3"),
            "GENTLE_LEDGER_CARRIER_URL": f"{self.carrier_url}/messaging/v1",
            "GENTLE_LEDGER_CARRIER_TIMEOUT": "1",
            "GENTLE_LEDGER_CARRIER_SETTLING": "3",
            "GENTLE_LEDGER_PRICE_PER_PART": "0.04",
        }

    def _program(self, *options: str) -> Process:
        return Process("serve", *options, "--port", str(self.port), env=self.env(), url=f"{self.url}/api/rounds")

    def start(self) -> Process:
        self.program = self._program().answering()
        return self.program

    @contextmanager
    def apart(self) -> Iterator[subprocess.Popen]:
        """The same program as two processes: one that shows and prepares, and one that sends."""
        self.program.end()
        self.program = self._program("--no-sender").answering()
        sending = [sys.executable, "-m", "gentle_ledger.cli", "sender"]
        sender = subprocess.Popen(sending, env={**os.environ, **self.env()}, stdout=subprocess.DEVNULL)
        try:
            yield sender
        finally:
            sender.terminate()
            sender.wait(20)

    @contextmanager
    def another(self) -> Iterator[Process]:
        """A second program on the same ledger; its `url` is that of its rounds."""
        port = free_port()
        second = Process("serve", "--port", str(port), env=self.env(), url=f"http://127.0.0.1:{port}/api/rounds")
        second.answering()
        try:
            yield second
        finally:
            second.end()

    def sender(self) -> int | None:
        """The process that sends from the ledger now."""
        database = Database(self.folder / "ledger.sqlite3")
        try:
            with database.reading() as session:
                sending = [turn for turn in turns(session) if seen(turn.process) in {Seen.RUNS, Seen.STOPPED}]
            return process_id(sending[0].process) if sending else None
        finally:
            database.close()

    def sender_processes(self) -> list[int]:
        """Every process that sends, or stands by, for this ledger."""
        mine = f"GENTLE_LEDGER_DATA={self.folder / 'ledger.sqlite3'}".encode()
        found = []
        for each in Path("/proc").glob("[0-9]*"):
            try:
                if (
                    b"sender" in (each / "cmdline").read_bytes().split(b"\0")
                    and mine in (each / "environ").read_bytes()
                ):
                    found.append(int(each.name))
            except OSError:
                continue
        return found

    def kill_sender(self) -> int:
        """SIGKILL for whoever sends; says which process that was."""
        process = until(self.sender, "a sender")
        os.kill(process, signal.SIGKILL)
        return process

    def arrived(self) -> list[tuple[str, str]]:
        """Number and text of everything that arrived on a handset."""
        records = Records(self.folder / "carrier.sqlite3")
        found = [(r.number, r.text) for r in records.arrived()]
        records.close()
        return found

    def end(self) -> None:
        self.program.end()
        self.carrier.end()


@contextmanager
def harbour(folder: Path) -> Iterator[Harbour]:
    made = Harbour(folder)
    try:
        yield made
    finally:
        made.end()
