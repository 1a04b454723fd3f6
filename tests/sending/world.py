"""A small world to send in: a clock that is wound by hand, a carrier that counts, and crashes on demand."""

import functools
import sqlite3
import tempfile
import threading
from contextlib import closing, contextmanager, suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from types import MappingProxyType

from gentle_ledger.core.pace.decide import Wait
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.sending.lines import Accepted, NoRecord, Policy, Refused, Silent, Unavailable
from gentle_ledger.sending.loop import Loop
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.database import Database
from gentle_ledger.store.freezing import freeze
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import add_round
from gentle_ledger.store.witness import Witness

START = datetime(2026, 11, 24, 12, 0, tzinfo=UTC)


class Crash(BaseException):
    """The process dies here: nothing after it runs, not even an error handler."""


class HandClock:
    def __init__(self) -> None:
        self.passed = 0.0

    def monotonic(self) -> float:
        return self.passed

    def now(self) -> datetime:
        return START + timedelta(seconds=self.passed)

    def wait(self, woken: threading.Event, seconds: float) -> None:
        self.passed += seconds


class CountingCarrier:
    """Remembers by reference and counts what arrives. `answers` overrides the answer to a number's next hand-overs."""

    name = "Quay Office"
    identity = "Quay Office at the quay"
    kind = "counting"
    settings = MappingProxyType({})
    settles_after = 60.0
    tells_repeats_apart = True
    can_be_asked = True

    @property
    def policy(self):
        return Policy(self.settles_after, self.tells_repeats_apart, self.can_be_asked)

    def __init__(self, clock: HandClock) -> None:
        self.clock = clock
        self.asked_at: list[float] = []
        self.references: list[str] = []
        self.arrived: list[tuple[str, str]] = []
        self.left_at: list[float] = []
        self.known: dict[str, object] = {}
        self.answers: dict[str, list[object]] = {}
        self.deaf = False

    def hand_over(self, reference, number, text):
        self.left_at.append(self.clock.monotonic())
        self.references.append(reference)
        if reference in self.known:
            return self.known[reference]
        waiting = self.answers.get(number)
        answer = waiting.pop(0) if waiting else Accepted(reference)
        if answer in {"lost", "taken, but 500"}:
            self.known[reference] = Accepted(reference)
            self.arrived.append((number, text))
            return Silent("the answer was lost") if answer == "lost" else Unavailable("500", perhaps_taken=True)
        if isinstance(answer, (Silent, Unavailable)):
            return answer
        if isinstance(answer, Accepted) or answer.own:
            self.known[reference] = answer
        if isinstance(answer, Accepted):
            self.arrived.append((number, text))
        return answer

    def ask(self, reference):
        self.asked_at.append(self.clock.monotonic())
        return Silent("deaf") if self.deaf else self.known.get(reference, NoRecord())


@functools.cache
def _empty_ledger() -> bytes:
    """A migrated file without a round, made once."""
    with tempfile.TemporaryDirectory() as folder:
        database = Database(Path(folder) / "ledger.sqlite3")
        database.migrate()
        with database.writing() as session:
            session.connection().exec_driver_sql("SELECT 1")
        database.close()
        return database.path.read_bytes()


def empty_ledger(folder: Path) -> Database:
    """A migrated database in the folder."""
    path = folder / "ledger.sqlite3"
    path.write_bytes(_empty_ledger())
    return Database(path)


class World:
    """One ledger with one started round of `rows` rows, and a sender that can be killed and started again."""

    def __init__(
        self, folder: Path, rows: int = 3, pace: PaceSettings | None = None, *, witnessed: bool = False
    ) -> None:
        self.clock = HandClock()
        self.state = folder / "state"
        self.witnessed = witnessed
        self.carrier = CountingCarrier(self.clock)
        self.database = empty_ledger(folder)
        self.pace = pace or PaceSettings(every=10, give_or_take=2)
        self.numbers = [f"+190255501{i:02}" for i in range(rows)]
        self.round_id = self.begin_round("902-555-01", rows)
        self.start()

    def begin_round(self, numbers: str, rows: int) -> int:
        """Starts one more round, to numbers that begin like that."""
        sheet = Sheet(("Name", "Mobile"), [(f"P{i}", f"{numbers}{i:02}") for i in range(rows)])
        recipe = Recipe(title="Dues", wording="Hello {Name}", pace=self.pace)
        with self.database.writing() as session:
            found = add_round(session, sheet, recipe, "a.csv", None, START)
            freeze(session, found, frozen_rows(compute_round(sheet, recipe), "UTC"), START)
            return found.id

    def start(self) -> None:
        witness = Witness(self.database.path, self.state) if self.witnessed else None
        self.sender = Sender(self.database, self.carrier, self.clock, draw=lambda: -1.0, witness=witness)
        self.sender.begin()
        self.loop = Loop(self.sender)

    def copy(self, to: Path) -> Path:
        """A copy of the ledger as it stands, made SQLite's own way."""
        with closing(sqlite3.connect(self.database.path)) as ledger, closing(sqlite3.connect(to)) as copy:
            ledger.backup(copy)
        return to

    def put_back(self, copy: Path) -> None:
        """Ends the sender, and starts one over that copy in the place of the ledger."""
        path = self.database.path
        self.sender.give_back()
        self.database.close()
        for beside in ("-wal", "-shm"):
            Path(f"{path}{beside}").unlink(missing_ok=True)
        path.write_bytes(copy.read_bytes())
        self.database = Database(path)
        self.start()

    def run(self, seconds: float = 1_000) -> None:
        """Steps the sender until there is nothing to do or the time is over."""
        until = self.clock.passed + seconds
        while (decision := self.sender.act()) is not None and self.clock.passed < until:
            left = decision.until - self.clock.passed if isinstance(decision, Wait) and decision.until else 0.5
            # Just before a wait is over, too: what leaves early is then seen.
            rest = min(60.0, left * 0.9) if left > 1 else left + 0.001
            self.clock.passed = min(until, self.clock.passed + rest)

    def round(self) -> Round:
        with self.database.reading() as session:
            return session.get_one(Round, self.round_id)

    def bell_rings(self, said: list[str]) -> None:
        """Notes what trouble the sender has at each ring of the bell."""
        self.sender.signal.tell = lambda: said.append(self.loop.trouble)

    def messages(self) -> list[Message]:
        with self.database.reading() as session:
            return list(session.query(Message).order_by(Message.row))

    def marks(self) -> list[str]:
        return [message.mark for message in self.messages()]

    def message(self, row: int) -> Message:
        return self.messages()[row - 1]


@contextmanager
def at_each_touch(world: World, touch):
    """Calls something at each touch of the outside: before and after a commit, within it, and around a call."""
    database, carrier = world.database, world.carrier
    hand_over, ask = carrier.hand_over, carrier.ask
    by_session, bare = database.writing, database.writing_bare

    def touched_write(writing):
        @contextmanager
        def around(**how):
            touch()
            with writing(**how) as ledger:
                yield ledger
                touch()
            touch()

        return around

    def touched(call):
        def around(*args):
            touch()
            answer = call(*args)
            touch()
            return answer

        return around

    database.writing, database.writing_bare = touched_write(by_session), touched_write(bare)
    carrier.hand_over, carrier.ask = touched(hand_over), touched(ask)
    try:
        yield
    finally:
        database.writing, database.writing_bare = by_session, bare
        carrier.hand_over, carrier.ask = hand_over, ask


@contextmanager
def dying_after(world: World, steps: int):
    """Kills the sender at its nth touch of the outside: before or after a commit or a call."""
    left = steps

    def touch() -> None:
        nonlocal left
        if left == 0:
            raise Crash
        left -= 1

    with suppress(Crash), at_each_touch(world, touch):
        yield


__all__ = [
    "Accepted",
    "CountingCarrier",
    "Crash",
    "HandClock",
    "NoRecord",
    "Refused",
    "Silent",
    "Unavailable",
    "World",
    "at_each_touch",
    "dying_after",
    "empty_ledger",
]
