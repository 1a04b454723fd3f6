"""The rounds as the counting process has them at hand: sheet, what was read of it, and the last count."""

import itertools
import os
from collections import OrderedDict
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from sqlalchemy.orm import Session

from gentle_ledger.app.counting.counted import Token
from gentle_ledger.app.open_rounds import KEPT, OpenRound, RoundCache
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.checks.history import History
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.store.database import Database
from gentle_ledger.store.history import goes_on_since, history_of_numbers, read_so_far
from gentle_ledger.store.models import Round

_counts = itertools.count()


@dataclass
class _Kept:
    """The last count of a round, and what its words are searched in."""

    opened: OpenRound
    computed: Computed | None = None
    token: Token = (0, 0)
    haystack: Sequence[str] | None = None
    searched: Readings | None = None


class FileAtHand:
    """One ledger file: its rounds are read by their versions, and kept for as long as they are worked on."""

    def __init__(self, path: Path) -> None:
        self.database = Database(path)
        self._rounds = RoundCache()
        self._kept: OrderedDict[int, _Kept] = OrderedDict()

    def round_at(self, session: Session, round_id: int, version: int, now: datetime) -> "RoundAtHand | None":
        """A round; None when it is not at that version any more."""
        found = session.get(Round, round_id)
        if found is None or found.version != version:
            return None
        opened = self._rounds.opened(session, found)
        kept = self._kept.get(round_id)
        if kept is None:
            kept = self._kept[round_id] = _Kept(opened)
        elif kept.opened is not opened:
            if not kept.opened.counts_the_same(opened):
                kept.computed = None
            kept.opened = opened
        self._kept.move_to_end(round_id)
        while len(self._kept) > KEPT:
            self._kept.popitem(last=False)
        return RoundAtHand(self.database, opened, now, kept)

    def close(self) -> None:
        """Lets the file go."""
        self.database.close()


@dataclass(frozen=True)
class RoundAtHand:
    """One round at one version, as a job works on it. `now` is the time of who asked."""

    database: Database
    opened: OpenRound
    now: datetime
    _kept: _Kept

    def computed(self) -> tuple[Computed, Token]:
        """All rows computed: once only, and anew when another round wrote to one of its numbers since."""
        kept, opened = self._kept, self.opened
        if kept.computed is None or self._goes_on(kept.computed):
            kept.computed = None
            computed = Computed(opened.composer, opened.kept.left_out, opened.kept.released, self._recall)
            kept.computed, kept.token = computed, (os.getpid(), next(_counts))
        return kept.computed, kept.token

    def _recall(self, numbers: Collection[str]) -> History:
        with self.database.reading() as session:
            days = self.opened.recipe.repeat_days
            return history_of_numbers(session, self.opened.round_id, numbers, days, self.now)

    def _goes_on(self, computed: Computed) -> bool:
        """True when something came since that concerns the round's numbers. What does not is passed over."""
        known = computed.history.read
        if known is None or not self.opened.recipe.repeat_days:
            return False
        with self.database.reading() as session:
            read = read_so_far(session)
            if read == known:
                return False
            concerned = {number.e164 for number in computed.numbers}
            if goes_on_since(session, self.opened.round_id, known, concerned.__contains__):
                return True
        computed.history = replace(computed.history, read=read)
        return False

    def haystack(self) -> Sequence[str]:
        """All cells of each row as one text to be searched, in any case."""
        kept, readings = self._kept, self.opened.readings
        if kept.haystack is None or kept.searched is not readings:
            kept.haystack = [" ".join(as_written(cell) for cell in row).casefold() for row in readings.sheet.rows]
            kept.searched = readings
        return kept.haystack
