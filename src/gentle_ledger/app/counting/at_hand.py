"""The rounds as the counting process has them at hand."""

import itertools
import os
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from sqlalchemy.orm import Session

from gentle_ledger.app.counting.counted import Token
from gentle_ledger.app.open_rounds import OpenRound, RoundCache
from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.checks.history import Before, History
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.searching import haystacks
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.store.database import Database
from gentle_ledger.store.history import Span, goes_on_since, history_of_numbers, on_record, read_so_far
from gentle_ledger.store.lines import terms_now
from gentle_ledger.store.models import Round
from gentle_ledger.store.reopening import other_rows

_counts = itertools.count()


class FileAtHand:
    """One ledger file: its rounds are read by their versions, and kept for as long as they are worked on.

    `office` is the zone (IANA) by whose clocks they are read.
    """

    def __init__(self, path: Path, office: str) -> None:
        self.database = Database(path)
        self._rounds = RoundCache(office=office)

    def round_at(self, session: Session, round_id: int, version: int, now: datetime) -> "RoundAtHand | None":
        """A round; None when it is not at that version any more."""
        found = session.get(Round, round_id)
        if found is None or found.version != version:
            return None
        return RoundAtHand(self.database, self._rounds.opened(session, found), now)

    def close(self) -> None:
        """Lets the file go."""
        self.database.close()


_OnRecord = dict[tuple[str, str], Before]


@dataclass(frozen=True)
class RoundAtHand:
    """One round at one version, as a job works on it. `now` is the time of who asked."""

    database: Database
    opened: OpenRound
    now: datetime

    def computed(self) -> tuple[Computed, Token]:
        """All rows computed: once only, and anew when another round wrote to a number, or another line is used."""
        opened = self.opened
        with self.database.reading() as session:
            most_parts = terms_now(session).most_parts
        kept = opened.computed
        if kept is None or kept[0].view.most_parts != most_parts or self._goes_on(kept[0]):
            opened.computed = None
            today = self.now.date()
            computed = Computed(
                opened.composer, opened.kept.left_out, opened.kept.released, self._recall, today, most_parts
            )
            kept = opened.computed = (computed, (os.getpid(), next(_counts)))
        return kept

    def anew(self) -> tuple[Computed, frozenset[int]]:
        """A started round after something in it was mended, and its rows (from 0) whose texts stay as they are.

        The others are computed beside those, and not with them. Of rows that are alike those that stay count as the
        first, wherever they stand: they went, or are to go.
        """
        opened = self.opened
        with self.database.reading() as session:
            most_parts, read = terms_now(session).most_parts, read_so_far(session)
            alone = frozenset(row_of_number(row) for row in other_rows(session, opened.round_id))
        key = (alone, most_parts, read)
        if opened.anew is None or opened.anew[0] != key:
            kept, composer = opened.kept, opened.composer
            if opened.recipe.combine:
                composer = Composer(opened.readings, opened.recipe, {*kept.left_out, *alone})
            today = self.now.date()
            found = Computed(composer, kept.left_out, kept.released, self._recall, today, most_parts, first=alone)
            opened.anew = (key, found)
        return opened.anew[1], alone

    def _recall(self, numbers: Collection[str], witnesses: Collection[str]) -> History:
        recipe = self.opened.recipe
        with self.database.reading() as session:
            span = Span(recipe.repeat_days, recipe.lately_days)
            found = history_of_numbers(session, self.opened.round_id, numbers, span, self.now)
            return replace(found, on_record=self._on_record(session, numbers, witnesses)) if witnesses else found

    def _on_record(self, session: Session, numbers: Collection[str], witnesses: Collection[str]) -> _OnRecord:
        """What the sheet's own cells witness; kept, as all of the record is read for it, until one of them changes."""
        readings = self.opened.readings
        key = ("on record", read_so_far(session), hash(frozenset(numbers)), hash(frozenset(witnesses)))
        reads = range(len(readings.sheet.columns))
        return readings.cache.kept(key, reads, lambda: on_record(session, self.opened.round_id, numbers, witnesses))

    def _goes_on(self, computed: Computed) -> bool:
        """True when something came since that concerns the round's numbers. What does not is passed over."""
        known = computed.history.read
        if known is None:
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

    def haystacks(self) -> Sequence[str]:
        """All cells of each row as one text to be searched, in one case."""
        if self.opened.haystacks is None:
            self.opened.haystacks = haystacks(self.opened.composer)
        return self.opened.haystacks
