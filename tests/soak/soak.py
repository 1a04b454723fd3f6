"""Kills of the sender, the server and the carrier while texts go out, counted at the carrier: `make soak`.

Whatever is killed and when, each text arrives once, every row ends Sent, and no two texts leave within the gap.
"""

import argparse
import random
import sqlite3
import tempfile
import time
from collections import Counter
from contextlib import closing
from itertools import pairwise
from pathlib import Path

import httpx

from tests.servers import Harbour, harbour, until

GAP = 0.1
_AREAS = ("902", "506", "782", "709")


class Soak:
    """Rounds that are sent one after the other, while somebody pulls the plugs."""

    def __init__(self, office: Harbour, seed: int, rows: int) -> None:
        self.office = office
        self.rows = rows
        self.dice = random.Random(seed)
        self.http = httpx.Client(base_url=office.url, timeout=20, headers={"origin": office.url})
        self.rounds: list[int] = []
        self.kills = Counter()
        self.gone_on: list[float] = []

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

    def see_to(self, number: int) -> dict:
        """Does what a clerk would: goes on after a pause, tries the failed ones again. Gives the tally."""
        path = f"/api/rounds/{number}"
        tally = self.http.get(f"{path}/tally").raise_for_status().json()
        if tally["stage"] == "paused":
            self.http.post(f"{path}/go-on")
        elif tally["may_try_again"]:
            self.http.post(
                f"{path}/again",
                json={"which": "failed", "texts": tally["may_try_again"], "seal": tally["seal_of_failed"]},
            )
        return tally

    def kill_something(self) -> None:
        drawn = self.dice.random()
        if drawn < 0.5:
            self.kills["sender"] += 1
            gone, at = self.office.kill_sender(), time.monotonic()
            until(lambda: self.office.sender() not in {None, gone}, "another sender")
            self.gone_on.append(time.monotonic() - at)
        elif drawn < 0.75:
            self.kills["server"] += 1
            self.office.program.kill()
            self.office.start()
        else:
            self.kills["carrier"] += 1
            self.office.carrier.kill()
            # An outage, at times a longer one: the sender meets a carrier that is not there.
            time.sleep(self.dice.choice((0.0, 0.2, 1.5)))
            self.office.start_carrier()

    def run(self, kills: int) -> None:
        while self.kills.total() < kills:
            if not self.rounds or self.see_to(self.rounds[-1])["stage"] == "finished":
                self.begin_round()
            time.sleep(self.dice.uniform(0.05, 1.2))
            self.kill_something()
            if self.kills.total() % 50 == 0:
                print(f"{self.kills.total()} kills, {len(self.rounds)} rounds", flush=True)
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
        named = ", ".join(f"{n} of the {what}" for what, n in sorted(self.kills.items()))
        return f"{texts} texts through kills ({named}): each arrived once; another sender took over within {took} s."

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
