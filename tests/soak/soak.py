"""Bad days while texts go out, counted at the carrier: `make soak`.

Sender, server and carrier are killed, the sender is stopped and woken up, the ledger is locked, an older copy of it is
put back, and windows race. Whatever happens and when, each text arrives once, every row ends Sent, and no two texts
leave within the gap.
"""

import argparse
import contextlib
import os
import random
import shutil
import signal
import sqlite3
import tempfile
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from itertools import pairwise
from pathlib import Path
from typing import ClassVar

from tests.servers import Harbour, harbour, until

GAP = 0.1
_AREAS = ("902", "506", "782", "709")


class Soak:
    """Rounds that are sent one after the other, while somebody pulls the plugs."""

    days: ClassVar[dict[str, float]] = {
        "sender killed": 40,
        "server killed": 15,
        "carrier killed": 15,
        "sender stopped": 8,
        "ledger locked": 8,
        "copy put back": 6,
        "two windows": 8,
    }

    def __init__(self, office: Harbour, seed: int, rows: int) -> None:
        self.office = office
        self.rows = rows
        self.dice = random.Random(seed)
        self.http = office.client()
        self.rounds: list[int] = []
        self.kills = Counter()
        self.gone_on: list[float] = []
        self.ledger, self.copy = office.folder / "ledger.sqlite3", office.folder / "copy"

    def begin_round(self) -> None:
        n = len(self.rounds)
        rows = [f"R{n}-{i},{_AREAS[i % 4]}-555-01{i // 4 % 100:02},{i}.50" for i in range(self.rows)]
        sheet = "\n".join(["Name,Mobile,Due", *rows])
        number = self.http.post("/api/rounds", files={"file": (f"r{n}.csv", sheet)}).raise_for_status().json()["id"]
        path = f"/api/rounds/{number}"
        self.http.put(f"{path}/wording", json={"wording": "Hello {Name}, {Due} to pay.", "row": 1}).raise_for_status()
        setup = {"pace": {"every": GAP, "give_or_take": 0}, "repeat_days": 0, "checks": {"same number": "look"}}
        self.http.patch(path, json=setup).raise_for_status()
        seal = self.http.get(f"{path}/confirmation").raise_for_status().json()["seal"]
        tally = self.http.post(f"{path}/start", json={"seal": seal}).raise_for_status().json()
        # Some may have gone by then, but none is held or left out.
        counts = {c["mark"]: c["rows"] for c in tally["counts"]}
        assert (sum(counts.values()), counts.keys() & {"Ready", "Held", "Left out"}) == (self.rows, set()), tally
        self.rounds.append(number)
        self.copy.unlink(missing_ok=True)
        with closing(sqlite3.connect(self.ledger)) as ledger, closing(sqlite3.connect(self.copy)) as copy:
            ledger.backup(copy)

    def see_to(self, number: int) -> dict:
        """Does what a clerk would: goes on after a pause, tries the failed ones again. Gives the tally."""
        path = f"/api/rounds/{number}"
        tally = self.http.get(f"{path}/tally").raise_for_status().json()
        if tally["stage"] == "paused":
            self.http.post(f"{path}/go-on", json={"looked": bool(tally["look_first"])})
        elif tally["stage"] == "preparing":
            seal = self.http.get(f"{path}/confirmation").raise_for_status().json()["seal"]
            self.http.post(f"{path}/start", json={"seal": seal})
        for which, texts in (("failed", tally["may_try_again"]), ("stopped", tally["may_take_up"])):
            if texts:
                body = {"which": which, "texts": texts, "seal": tally[f"seal_of_{which}"], "looked": True}
                self.http.post(f"{path}/again", json=body)
        return tally

    def kill_something(self) -> None:
        """Draws one of the bad days, and lets it happen."""
        days = list(self.days)
        day = self.dice.choices(days, [self.days[each] for each in days])[0]
        self.kills[day] += 1
        getattr(self, day.replace(" ", "_"))()

    def sender_killed(self) -> None:
        gone, at = self.office.kill_sender(), time.monotonic()
        until(lambda: self.office.sender() not in {None, gone}, "another sender")
        self.gone_on.append(time.monotonic() - at)

    def sender_stopped(self) -> None:
        """It stands still for a while, at times for so long that another one takes its place."""
        hung = until(self.office.sender, "a sender")
        os.kill(hung, signal.SIGSTOP)
        if self.dice.random() < 0.5:
            time.sleep(self.dice.uniform(0.1, 2.0))
        else:
            until(lambda: self.office.sender() not in {None, hung}, "another sender")
        with contextlib.suppress(ProcessLookupError):
            os.kill(hung, signal.SIGCONT)

    def server_killed(self) -> None:
        self.office.program.kill()
        self.office.start()

    def carrier_killed(self) -> None:
        self.office.carrier.kill()
        # An outage, at times a longer one: the sender meets a carrier that is not there.
        time.sleep(self.dice.choice((0.0, 0.2, 1.5)))
        self.office.start_carrier()

    def ledger_locked(self) -> None:
        """Another program holds the ledger's lock for a while."""
        with closing(sqlite3.connect(self.ledger, timeout=20, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            time.sleep(self.dice.uniform(0.1, 3.0))
            other.execute("ROLLBACK")

    def copy_put_back(self) -> None:
        """The program is ended, and the copy from the beginning of the round put in the place of its ledger."""
        self.office.program.end()
        until(lambda: self.office.sender() is None, "the end of the senders")
        for beside in ("-wal", "-shm"):
            Path(f"{self.ledger}{beside}").unlink(missing_ok=True)
        shutil.copy(self.copy, self.ledger)
        self.office.start()

    def two_windows(self) -> None:
        """One window pauses or stops while the other changes the pace, and both go on."""
        path = f"/api/rounds/{self.rounds[-1]}"
        pressed = [self.dice.choice(("pause", "stop", "go-on", "take-back")) for _ in range(4)]
        with ThreadPoolExecutor(4) as windows:
            for press in pressed:
                windows.submit(self.http.post, f"{path}/{press}")
                windows.submit(self.http.patch, path, json={"pace": {"every": GAP, "give_or_take": 0, "after": 0}})

    def run(self, kills: int) -> None:
        while self.kills.total() < kills:
            if not self.rounds or self.see_to(self.rounds[-1])["stage"] == "finished":
                self.begin_round()
            time.sleep(self.dice.uniform(0.05, 1.2))
            self.kill_something()
            if self.kills.total() % 50 == 0:
                print(f"{self.kills.total()} bad days, {len(self.rounds)} rounds", flush=True)
        for number in self.rounds:
            until(lambda n=number: self.is_done(n), f"the end of round {number}", seconds=240)

    def is_done(self, number: int) -> bool:
        tally = self.see_to(number)
        return tally["stage"] == "finished" and tally["counts"] == [{"mark": "Sent", "rows": self.rows}]

    def count(self) -> str:
        """Counts at the carrier. Raises AssertionError when a text arrived twice, not at all, or too soon."""
        arrived = Counter(self.office.arrived())
        twice = {key: n for key, n in arrived.items() if n > 1}
        assert not twice, f"arrived more than once: {twice}"
        texts = self.rows * len(self.rounds)
        assert len(arrived) == texts, f"{len(arrived)} of {texts} arrived"
        begun = sorted(self._hand_overs())
        soonest = min(b - a for a, b in pairwise(begun))
        assert soonest >= GAP * 0.99, f"two texts left within {soonest:.3f} s"
        took = f"{max(self.gone_on, default=0):.2f}"
        named = ", ".join(f"{what} {n}" for what, n in sorted(self.kills.items()))
        return f"{texts} texts through bad days ({named}): each arrived once; another sender took over within {took} s."

    def _hand_overs(self) -> list[float]:
        """When each hand-over was begun, by the ledger, in POSIX seconds."""
        with closing(sqlite3.connect(self.office.folder / "ledger.sqlite3")) as ledger:
            return [at for (at,) in ledger.execute("SELECT (julianday(at) - 2440587.5) * 86400.0 FROM attempts")]


def soak(folder: Path, kills: int, seed: int, rows: int = 300) -> str:
    with harbour(folder) as office:
        running = Soak(office, seed, rows)
        with running.http:
            running.run(kills)
        return running.count()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=1_000)
    parser.add_argument("--seed", type=int, default=20261126)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        print(soak(Path(folder), options.kills, options.seed))


if __name__ == "__main__":
    main()
