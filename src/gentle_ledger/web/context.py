"""What every route shares: the store, the rounds at hand, the settings and the clock."""

import copy
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from fastapi import Depends, Path, Request

from gentle_ledger.app.counting.client import Counting
from gentle_ledger.app.counting.pool import Pool
from gentle_ledger.app.counting.runs_ahead import RunsAhead
from gentle_ledger.app.edit import Editor
from gentle_ledger.app.open_rounds import OpenRound, RoundCache
from gentle_ledger.app.rehearsing import Rehearsals
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.columns.writing import Writer
from gentle_ledger.core.pace.civil import local, zone_named
from gentle_ledger.core.pace.decide import Now
from gentle_ledger.core.recipe.format import Format, FormatKind
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.database import Database
from gentle_ledger.store.deeds import NO_DEED, Deed
from gentle_ledger.store.errors import Trouble
from gentle_ledger.store.lines import line_in_use, terms_now
from gentle_ledger.store.models import Round
from gentle_ledger.store.presence import trouble_of_sender
from gentle_ledger.store.rounds import preparing_round, round_of
from gentle_ledger.store.senders import LineTurn
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.web.settings import Settings


@dataclass
class Context:
    settings: Settings
    database: Database
    signal: ChangeSignal
    clock: Clock
    pool: Pool
    rehearsals: Rehearsals
    deed: Deed = NO_DEED
    """What the window says of what it asks for, in this request."""

    def __post_init__(self) -> None:
        self.counting = Counting(self.database, self.now, self.pool, self.settings.zone)
        self.rounds = RoundCache(self.counting.end, self.counting.groups, self.settings.zone)
        self.forecasts = RunsAhead()
        self.editor = Editor(self.database, self.rounds, self.clock.now)

    def line_name(self) -> str:
        """What recipients see as the sender, of the line that rounds go by."""
        with self.database.reading() as session:
            line = line_in_use(session)
        return line.name if line else self.settings.sender

    def trouble_of(self, turn: LineTurn) -> Trouble:
        """What keeps the sender that has a turn from its work, as it says itself, or whoever cannot start one."""
        return trouble_of_sender(self.database.path, turn, self.signal.no_sender)

    def now(self) -> datetime:
        """The moment, with the offset of the office's zone."""
        return local(self.clock.now().timestamp(), zone_named(self.settings.zone), fixed=True)

    def at_office(self, moment: datetime) -> datetime:
        """A moment by the office's clocks."""
        return moment.astimezone(zone_named(self.settings.zone))

    def moment(self) -> Now:
        """The present for the pace. What the store keeps of a line was told by civil time, so both clocks are that."""
        civil = self.clock.now().timestamp()
        return Now(civil, civil)

    def cost(self, parts: Mapping[str, int], recipe: Recipe) -> str | None:
        """What so many parts to each country (ISO 3166-1) cost by the line, ready to read; None without a price."""
        with self.database.reading() as session:
            terms = terms_now(session)
        cost = terms.cost(parts)
        if cost is None:
            return None
        shown = Writer(recipe.locale, terms.price_currency).write(cost, Format(FormatKind.MONEY))
        return shown if isinstance(shown, str) else None

    def opened(self, round_id: int, *, preparing: bool = False) -> tuple[Round, OpenRound]:
        """A round and its desk as they are now. With `preparing`, raises NotNow once sending has started."""
        with self.database.reading() as session:
            found = preparing_round(session, round_id) if preparing else round_of(session, round_id)
            return found, self.rounds.opened(session, found)

    def changed(self) -> None:
        """Tells everybody in this process who listens that something was written: open windows, and the sender."""
        self.signal.tell()


async def _context(request: Request) -> Context:
    # Not awaiting anything, and yet async: a plain function would cost a change of threads at each request.
    found: Context = request.app.state.context
    if request.method in _SAFE:
        return found
    mine = copy.copy(found)
    mine.deed = _deed(request.headers)
    return mine


_SAFE = frozenset({"GET", "HEAD"})
_MOST_KEY = 100
_KEY, _WINDOW, _ROUND, _SEEN = (
    "Idempotency-Key",
    "Gentle-Ledger-Window",
    "Gentle-Ledger-Round",
    "Gentle-Ledger-Seen",
)


def _deed(headers: Mapping[str, str]) -> Deed:
    """What the headers of a request say of it; what is none of ours says nothing."""
    key, window, uid = (headers.get(name, "")[:_MOST_KEY] for name in (_KEY, _WINDOW, _ROUND))
    seen = headers.get(_SEEN, "")
    return Deed(key, window, uid, int(seen) if seen.isascii() and seen.isdecimal() and len(seen) < 18 else None)


RoundId = Annotated[int, Path(ge=1, le=2**63 - 1)]
"""The number of a round, as far as the store can count."""
NumberInPath = Annotated[RowNumber, Path(ge=1, le=2**63 - 1)]
"""The number of a row, as far as the store can count."""
Here = Annotated[Context, Depends(_context)]
