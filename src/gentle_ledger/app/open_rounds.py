"""The rounds that are being worked on, read once and kept at hand: sheet, recipe and what was computed of them."""

import contextlib
import functools
import threading
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Collection
from dataclasses import replace
from datetime import datetime
from typing import ParamSpec, TypeVar

from sqlalchemy.orm import Session

from gentle_ledger.app.priority import Priority
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.checks.history import History
from gentle_ledger.core.columns.by_row import EVERY, giving_way
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.store.database import Database
from gentle_ledger.store.history import goes_on_since, history_of_numbers, read_so_far
from gentle_ledger.store.journal import Touched
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import KeptRows, kept_rows_of, recipe_of, row_of, sheet_of

_KEPT = 6
_PASSES = 15
_PASSES_A_COLUMN = 2
"""How often counting goes through all rows, at all and for each column of the wording; measured, and only for show."""

P = ParamSpec("P")
T = TypeVar("T")


class Superseded(LedgerError):
    """A round was changed while it was being computed: the answer would be out of date.

    The client asks again by itself. An answer that waited here for the newest state would keep a thread for as long as
    somebody types.
    """

    kind = "superseded"
    status = 409

    def __init__(self) -> None:
        super().__init__("The round was changed while it was being computed.", "Look at it once more.")


def from_the_newest(endpoint: Callable[P, T]) -> Callable[P, T]:
    """For what is pressed once: begins the answer anew when the round was changed while it was being computed."""

    @functools.wraps(endpoint)
    def until_current(*args: P.args, **more: P.kwargs) -> T:
        while True:
            try:
                return endpoint(*args, **more)
            except Superseded:
                continue

    return until_current


class OpenRound:
    """One round at one version. All its rows are computed when that is first asked for, and once only."""

    def __init__(self, found: Round, composer: Composer, kept: KeptRows, priority: Priority, past: "Past") -> None:
        self.round_id = found.id
        self.version = found.version
        self.sheet_version = found.sheet_version
        self.composer = composer
        self.readings = composer.readings
        self.recipe = composer.recipe
        self.kept = kept
        self.superseded = False
        self.counted: Computed | None = None
        self._priority = priority
        self._past = past
        self._guard = threading.Lock()
        self._rests = 0

    @property
    def percent(self) -> int:
        """How far the counting of all rows is, roughly: by how often it gave way, and how often it will have."""
        if self.counted is not None:
            return 100
        passes = _PASSES + _PASSES_A_COLUMN * len(self.composer.used)
        return min(99, 100 * self._rests * EVERY // max(1, passes * len(self.readings.sheet.rows)))

    def computed(self) -> Computed:
        """All rows computed, waiting for it if need be. Raises Superseded when a newer state took this one's place."""
        with self._guard:
            if self.counted is None or self._past.goes_on(self):
                recall = functools.partial(self._past.recall, self)
                self.counted = Computed(self.composer, self.kept.left_out, self.kept.released, self.give_way, recall)
            return self.counted

    def behind_the_record(self, session: Session) -> bool:
        """True when another round has sent, or begun to send, to one of this round's numbers since it was counted."""
        return self.counted is None or self._past.goes_on(self, session)

    def give_way(self) -> None:
        """Lets shorter work go first. Raises Superseded when going on would be for nothing."""
        if self.superseded:
            raise Superseded()
        self._rests += 1
        self._priority.give_way()

    def counts_the_same(self, other: "OpenRound") -> bool:
        """True when no row can come out differently: only the title or the pace is another."""
        same_sheet = self.readings is other.readings
        return same_sheet and self.kept == other.kept and _what_counts(self.recipe) == _what_counts(other.recipe)


class Past:
    """What other rounds did, as the rounds that are being prepared look at it."""

    def __init__(self, database: Database, now: Callable[[], datetime]) -> None:
        self._database = database
        self._now = now

    def recall(self, state: OpenRound, numbers: Collection[str]) -> History:
        """What other rounds sent to these numbers within the days that the round looks back."""
        with self._database.reading() as session:
            return history_of_numbers(session, state.round_id, numbers, state.recipe.repeat_days, self._now())

    def goes_on(self, state: OpenRound, session: Session | None = None) -> bool:
        """True when something came since that concerns the numbers of a counted state. What does not is passed over."""
        counted = state.counted
        if counted is None or not state.recipe.repeat_days:
            return False
        with contextlib.nullcontext(session) if session else self._database.reading() as reading:
            read = read_so_far(reading)
            known = counted.history.mark
            if known == read or not isinstance(known, tuple):
                return False
            concerned = {number.e164 for number in counted.numbers}
            if goes_on_since(reading, state.round_id, known, concerned.__contains__):
                return True
        counted.history = replace(counted.history, mark=read)
        return False


def _what_counts(recipe: Recipe) -> Recipe:
    plain = Recipe()
    return recipe.model_copy(update={"title": plain.title, "pace": plain.pace})


class RoundCache:
    """The last few rounds that were looked at. A round's sheet is read once; its version says when the rest changed."""

    def __init__(self, priority: Priority, past: Past) -> None:
        self._priority = priority
        self._past = past
        self._states: OrderedDict[int, OpenRound] = OrderedDict()
        self._haystacks: dict[int, tuple[Readings, list[str]]] = {}
        self._guard = threading.Lock()
        self._opening: defaultdict[int, threading.Lock] = defaultdict(threading.Lock)

    def at_hand(self, round_id: int) -> bool:
        """True when the round's sheet need not be read from the store."""
        return round_id in self._states

    def percent(self, round_id: int) -> int:
        """How far the counting of a round's rows is; 0 while its sheet is still being read."""
        state = self._states.get(round_id)
        return 0 if state is None else state.percent

    def opened(self, session: Session, found: Round) -> OpenRound:
        """The round as it is now; its sheet is read from the store the first time only."""
        with self._guard:
            opening = self._opening[found.id]
        with opening:
            known = self._states.get(found.id)
            if known is not None and known.version == found.version:
                return known
            # Another copy of the program may have mended cells: the sheet's own version says so, not the round's.
            same_sheet = known is not None and known.sheet_version == found.sheet_version
            readings = known.readings if known is not None and same_sheet else Readings(sheet_of(session, found))
            kept = kept_rows_of(session, found)
            return self.keep(self._at(found, readings, kept))

    def after(self, session: Session, found: Round, known: OpenRound, touched: Touched) -> OpenRound:
        """The round after a change of it: only what comes from what was touched is read anew. It is not kept yet."""
        kept = kept_rows_of(session, found) if touched.rows or touched.flags else known.kept
        if touched.rows:
            return self._at(found, Readings(sheet_of(session, found)), kept)
        readings = known.readings
        if touched.cells:
            rows = list(readings.sheet.rows)
            for row in {row for row, _ in touched.cells}:
                rows[row] = row_of(session, found, row + 1)
            readings = readings.after(replace(readings.sheet, rows=rows), sorted(touched.cells))
        return self._at(found, readings, kept)

    def _at(self, found: Round, readings: Readings, kept: KeptRows) -> OpenRound:
        composer = Composer(readings, recipe_of(found), kept.left_out)
        return OpenRound(found, composer, kept, self._priority, self._past)

    def keep(self, state: OpenRound) -> OpenRound:
        """Keeps a round at hand as it is in the store, unless a newer state of it is there."""
        with self._guard:
            before = self._states.get(state.round_id)
            if before is not None and before.version > state.version:
                state.superseded = True
                return state
            if before is not None and before.counts_the_same(state):
                state.counted = before.counted
            elif before is not None:
                before.superseded = True
            self._states[state.round_id] = state
            self._states.move_to_end(state.round_id)
            while len(self._states) > _KEPT:
                gone, _ = self._states.popitem(last=False)
                self._haystacks.pop(gone, None)
        return state

    def forget(self, round_id: int) -> None:
        """Keeps nothing of the round at hand any more."""
        with self._guard:
            self._states.pop(round_id, None)
            self._haystacks.pop(round_id, None)

    def search(self, state: OpenRound, words: str) -> list[int]:
        """The rows (from 0) that hold every one of the words, in any of their cells."""
        kept_with, haystack = self._haystacks.get(state.round_id, (None, None))
        if haystack is None or kept_with is not state.readings:
            rows = state.readings.sheet.rows
            numbers = giving_way(range(len(rows)), state.give_way)
            haystack = [" ".join(as_written(cell) for cell in rows[row]).casefold() for row in numbers]
            # A mend may have come meanwhile: what was read belongs to the cells it was read from.
            self._haystacks[state.round_id] = (state.readings, haystack)
        needles = words.casefold().split()
        return [row for row, hay in enumerate(haystack) if all(needle in hay for needle in needles)]
