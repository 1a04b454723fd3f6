"""Whose turn a line is: of all processes that could send by it one does, under a number that only grows."""

import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from functools import partial
from pathlib import Path
from typing import NamedTuple, TypeVar

from sqlalchemy.orm import Session

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.store.database import Database
from gentle_ledger.store.lines import line_of_round
from gentle_ledger.store.models import Round, SenderRecord
from gentle_ledger.store.statements import Statements, statements_of

_Way = TypeVar("_Way", Session, Statements)


class TurnLost(LedgerError):
    """Another process took the turn of the line: this one writes, and hands over, nothing more."""

    kind = "turn lost"


class LineTurn(NamedTuple):
    """Who has the turn of a line; see `SenderRecord`. `process` is "" where nobody has."""

    line_id: int
    turn: int = 0
    process: str = ""
    settings: str = ""


def sender_lock(path: Path) -> Path:
    """The file of a ledger whose lock all senders of this version share; earlier ones hold it for themselves alone."""
    return Path(f"{path}.sender")


def turn_of(ledger: Statements, line_id: int) -> LineTurn:
    """Who has the turn of a line now."""
    found = ledger.first("SELECT line_id, turn, process, settings FROM senders WHERE line_id = ?", line_id)
    return LineTurn(*found) if found else LineTurn(line_id)


def turns(session: Session) -> list[LineTurn]:
    """Who has the turn of each line."""
    found = session.query(SenderRecord).order_by(SenderRecord.line_id)
    return [LineTurn(each.line_id, each.turn, each.process, each.settings) for each in found]


def sender_of(session: Session, found: Round) -> LineTurn:
    """Who has the turn of the line that a round goes by."""
    line = line_of_round(session, found)
    return turn_of(statements_of(session), line.id) if line else LineTurn(0)


def take_turn(ledger: Statements, before: LineTurn, process: str, settings: str) -> LineTurn:
    """Takes the turn of a line from whoever had it `before`. Raises TurnLost where that is somebody else by now."""
    if turn_of(ledger, before.line_id) != before:
        raise TurnLost("Another process began to send meanwhile.")
    ledger.run(
        "INSERT INTO senders (line_id, turn, process, settings) VALUES (?, ?, ?, ?) ON CONFLICT (line_id) "
        "DO UPDATE SET turn = excluded.turn, process = excluded.process, settings = excluded.settings",
        *(before.line_id, before.turn + 1, process, settings),
    )
    return LineTurn(before.line_id, before.turn + 1, process, settings)


def give_turn_back(ledger: Statements, mine: LineTurn) -> None:
    """Lets another process have the turn of a line, if it is still ours. Its number stays."""
    ledger.run("UPDATE senders SET process = '' WHERE line_id = ? AND turn = ?", mine.line_id, mine.turn)


def refuse_lost(ledger: Statements, mine: LineTurn) -> None:
    """Raises TurnLost where another process has the turn by now."""
    found = ledger.first("SELECT turn FROM senders WHERE line_id = ?", mine.line_id)
    if found is None or found[0] != mine.turn:
        raise TurnLost("Another process sends by this line now.")


class HeldLedger(Database):
    """The ledger as a sender writes it: each write names its turn, and is refused once that is another's.

    Attributes:
        mine: the turn; None before it was taken, and nothing can be written then.
        touched_at: when it was last come to, in seconds of the clock that only runs forward.
        waits_since: since when it is waited for, by the same clock; None while it is not.
    """

    def __init__(self, database: Database) -> None:
        self._database = database
        self.mine: LineTurn | None = None
        self.touched_at = time.monotonic()
        self.waits_since: float | None = None

    def __getattr__(self, name: str) -> object:
        return getattr(self._database, name)

    def _refuse_lost(self, ledger: Statements) -> None:
        if self.mine is None:
            raise TurnLost("Nobody has the turn of this line.")
        refuse_lost(ledger, self.mine)

    @contextmanager
    def _come_to(self, way: Callable[[], AbstractContextManager[_Way]]) -> Iterator[_Way]:
        self.waits_since = self.touched_at = time.monotonic()
        try:
            with way() as ledger:
                self.waits_since = None
                yield ledger
        finally:
            self.waits_since = None
            self.touched_at = time.monotonic()

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """See `Database`."""
        with self._come_to(self._database.reading) as session:
            yield session

    @contextmanager
    def reading_bare(self) -> Iterator[Statements]:
        """See `Database`."""
        with self._come_to(self._database.reading_bare) as ledger:
            yield ledger

    @contextmanager
    def writing(self, *, piece: bool = False) -> Iterator[Session]:
        """See `Database`. Raises TurnLost."""
        with self._come_to(partial(self._database.writing, piece=piece)) as session:
            self._refuse_lost(statements_of(session))
            yield session

    @contextmanager
    def writing_bare(self, *, piece: bool = False, patience: float | None = None) -> Iterator[Statements]:
        """See `Database`. Raises TurnLost."""
        self.waits_since = time.monotonic()
        try:
            with self._database.writing_bare(piece=piece, patience=patience) as ledger:
                self.waits_since = None
                self._refuse_lost(ledger)
                yield ledger
        finally:
            self.waits_since = None
            self.touched_at = time.monotonic()
