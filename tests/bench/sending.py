"""How fast and how punctual the sender is (`make bench`).

Hand-overs a second without a pace, beside a bare loop over the same carrier that writes each one down durably before
and after; and how late they are at a gap of half a second, while all rows of another round are counted again and again.
"""

import sqlite3
import statistics
import tempfile
import threading
import time
from contextlib import closing
from datetime import UTC, datetime
from itertools import pairwise
from pathlib import Path

import httpx

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.sending.lines.oma_messaging import OmaMessagingLine
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.database import Database
from gentle_ledger.store.freezing import freeze
from gentle_ledger.store.rounds import add_round
from tests.bench.sheets import WORDING, as_csv
from tests.servers import Harbour, harbour, until

TEXTS = 1_000


class NoWait:
    """A clock on which every gap is over at once."""

    def __init__(self) -> None:
        self.passed = 0.0

    def monotonic(self) -> float:
        self.passed += 0.2
        return self.passed

    def now(self) -> datetime:
        return datetime.now(UTC)

    def wait(self, woken, seconds) -> None:
        self.passed += seconds


def bare(office: Harbour, folder: Path) -> float:
    """Hand-overs a second of a loop that does no more than it must: a commit before, the call, a commit after."""
    base = f"{office.carrier_url}/messaging/v1/outbound/Quay%20Office/requests"
    with closing(sqlite3.connect(folder / "bare.sqlite3", isolation_level=None)) as ledger, httpx.Client() as client:
        ledger.execute("PRAGMA journal_mode=WAL")
        ledger.execute("PRAGMA synchronous=FULL")
        ledger.execute("CREATE TABLE texts (reference TEXT PRIMARY KEY, mark TEXT)")
        begun = time.perf_counter()
        for n in range(TEXTS):
            ledger.execute("INSERT INTO texts VALUES (?, 'Going')", (f"b{n}",))
            body = {
                "address": [f"tel:+1902555{n % 50 + 100:04}"],
                "senderAddress": "Quay Office",
                "outboundSMSTextMessage": {"message": f"Bare {n}"},
                "clientCorrelator": f"b{n}",
            }
            client.post(base, json={"outboundMessageRequest": body}).raise_for_status()
            ledger.execute("UPDATE texts SET mark = 'Sent' WHERE reference = ?", (f"b{n}",))
        return TEXTS / (time.perf_counter() - begun)


def ours(office: Harbour, folder: Path) -> float:
    """Hand-overs a second of the sender, by the same carrier."""
    database = Database(folder / "ours.sqlite3")
    database.migrate()
    line = OmaMessagingLine(f"{office.carrier_url}/messaging/v1", "Quay Office")
    sheet = Sheet(("Name", "Mobile"), [(f"P{n}", f"902-555-{n % 50 + 100:04}") for n in range(TEXTS)])
    recipe = Recipe(wording="Hello {Name}", pace=PaceSettings(every=0.1), checks={"same number": "look"})
    with database.writing() as session:
        found = add_round(session, sheet, recipe, "a.csv", None, datetime.now(UTC))
        freeze(session, found, frozen_rows(compute_round(sheet, recipe), "UTC"), datetime.now(UTC))
    sender = Sender(database, line, NoWait(), draw=lambda: 0.0)
    begun = time.perf_counter()
    while sender.act() is not None:
        pass
    took = time.perf_counter() - begun
    database.close()
    return TEXTS / took


def late(office: Harbour, rows: int, texts: int = 40) -> list[float]:
    """Milliseconds by which each hand-over was later than its gap, while rows are counted and keys are typed."""
    with httpx.Client(base_url=office.url, timeout=600, headers=office.own) as client:
        big = client.post("/api/rounds", files={"file": ("big.csv", as_csv(rows))}).json()["id"] if rows else None
        few = "".join(f"P{n},709-555-{n + 100:04}\n" for n in range(texts))
        number = client.post("/api/rounds", files={"file": ("a.csv", f"Name,Mobile\n{few}")}).json()["id"]
        path = f"/api/rounds/{number}"
        client.put(f"{path}/wording", json={"wording": f"Hello {{Name}}, {rows}", "row": 1})
        client.patch(path, json={"pace": {"every": 0.5, "give_or_take": 0}})
        client.post(f"{path}/start", json={"seal": client.get(f"{path}/confirmation").json()["seal"]})
        over = threading.Event()

        def type_on() -> None:
            keys = 0
            while not over.is_set() and big:
                keys += 1
                put = {"wording": f"{WORDING} {keys}", "row": keys}
                client.put(f"/api/rounds/{big}/wording", json=put)
                if keys % 5 == 0:
                    client.get(f"/api/rounds/{big}")

        typing = threading.Thread(target=type_on)
        typing.start()
        until(lambda: client.get(f"{path}/tally").json()["stage"] == "finished", "the end", seconds=300)
        over.set()
        typing.join()
        with closing(sqlite3.connect(office.folder / "ledger.sqlite3")) as ledger:
            wanted = (
                "SELECT (julianday(a.at) - 2440587.5) * 86400.0, (julianday(a.answered_at) - 2440587.5) * 86400.0 "
                "FROM attempts a JOIN messages m ON m.id = a.message_id WHERE m.round_id = ? ORDER BY a.id"
            )
            found = ledger.execute(wanted, (number,)).fetchall()
        # The gap counts from the end of a hand-over.
        return [(begun - answered - 0.5) * 1000 for (_, answered), (begun, _) in pairwise(found)]


def main() -> None:
    with tempfile.TemporaryDirectory() as name, harbour(Path(name)) as office:
        floor, found = bare(office, Path(name)), ours(office, Path(name))
        print(f"hand-overs a second without a pace   bare {floor:.0f}   ours {found:.0f}   ({found / floor:.0%})")
        for rows in (0, 100_000):
            lateness = late(office, rows)
            usual, most = statistics.median(lateness), max(lateness)
            print(f"late at a gap of 0.5 s (ms)   {rows:>7,} rows counted   median {usual:.1f}   most {most:.1f}")


if __name__ == "__main__":
    main()
