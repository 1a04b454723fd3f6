"""The rounds that are being worked on, read once and kept at hand: their sheet, and what was read of it."""

import threading
from collections import OrderedDict, defaultdict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import number_of_row, row_of_number
from gentle_ledger.core.columns.combining import Groups
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.pace.civil import zone_named
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import BY_ROW
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.plain_case import PlainCase
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.store.effects import Touched
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import kept_rows_of, recipe_of, sheet_of
from gentle_ledger.store.rows import rows_now
from gentle_ledger.store.sheets import KeptRows

if TYPE_CHECKING:
    from gentle_ledger.app.counting.counted import Counted, Token

KEPT = 6
"""Rounds that are kept at hand."""


class OpenRound:
    """One round at one version.

    Attributes:
        readings: its sheet, and what was read of it.
        recipe: its set-up.
        kept: the rows that the clerk left out or released.
        superseded: whether a newer state of it is at hand.
        counted: what a count of all its rows gave, in the process that asks for it.
        counting: held by whoever has its rows counted.
        computed: all its rows and what stands for that count, in the process that counts.
        anew: the same after something was mended since it was started, and what stands for that, in that process.
        haystacks: what its rows are searched for, in that process.
        plain_case: what most of its texts are like, and of which computed rows, in that process.
    """

    def __init__(
        self, found: Round, readings: Readings, kept: KeptRows, grouped: "Callable[[OpenRound], Groups] | None"
    ) -> None:
        self.round_id = found.id
        self.version = found.version
        self.sheet_version = found.sheet_version
        self.sheet_id = found.sheet_id
        self.readings = readings
        self.recipe = recipe_of(found)
        self.kept = kept
        self.superseded = False
        self.counted: Counted | None = None
        self.counting = threading.Lock()
        self.computed: tuple[Computed, Token] | None = None
        self.anew: tuple[Hashable, Computed] | None = None
        self.haystacks: Sequence[str] | None = None
        self.plain_case: tuple[Computed, PlainCase] | None = None
        self._grouped = grouped

    @cached_property
    def composer(self) -> Composer:
        """Its columns and its wording; any row is worked out when it is asked for."""
        grouped = None if self._grouped is None else lambda ask=self._grouped: ask(self)
        return Composer(self.readings, self.recipe, self.kept.left_out, grouped)

    def counts_the_same(self, other: "OpenRound") -> bool:
        """True when no row can come out differently: only the title is another, or what of the pace is for all rows."""
        same_sheet = self.readings is other.readings
        return same_sheet and self.kept == other.kept and _what_counts(self.recipe) == _what_counts(other.recipe)


def _what_counts(recipe: Recipe) -> Recipe:
    plain = Recipe()
    pace = plain.pace.model_copy(update={name: getattr(recipe.pace, name) for name in BY_ROW})
    return recipe.model_copy(update={"title": plain.title, "pace": pace})


class RoundCache:
    """The last few rounds that were looked at. A round's sheet is read once; its version says when the rest changed.

    Args:
        ended: told of a round in whose place a newer state of it came.
        grouped: says which of a round's rows go together; by default that is worked out here.
        office: the zone (IANA) by whose clocks they are read.
    """

    def __init__(
        self,
        ended: Callable[[OpenRound], None] = lambda _opened: None,
        grouped: Callable[[OpenRound], Groups] | None = None,
        office: str = "UTC",
    ) -> None:
        self._ended = ended
        self._office = zone_named(office)
        self._grouped = grouped
        self._states: OrderedDict[int, OpenRound] = OrderedDict()
        self._guard = threading.Lock()
        self._opening: defaultdict[int, threading.Lock] = defaultdict(threading.Lock)

    def known(self, round_id: int) -> OpenRound | None:
        """The round as it was last at hand; None where its sheet has to be read from the store first."""
        return self._states.get(round_id)

    def opened(self, session: Session, found: Round) -> OpenRound:
        """The round as it is now; its sheet is read from the store the first time, and when its version is another."""
        with self._guard:
            opening = self._opening[found.id]
        with opening:
            known = self._states.get(found.id)
            if known is not None and known.version == found.version:
                return known
            # Another copy of the program may have mended cells: the sheet's own version says so, not the round's.
            if known is not None and known.sheet_version == found.sheet_version:
                readings = known.readings
            else:
                sheet = sheet_of(session, found)
                readings = known.readings.brought_to(sheet) if known else Readings(sheet, self._office)
            return self.keep(OpenRound(found, readings, kept_rows_of(session, found), self._grouped))

    def after(self, session: Session, found: Round, known: OpenRound, touched: Touched) -> OpenRound:
        """The round after a change of it: only what comes from what was touched is read anew. It is not kept yet."""
        return self.standing(found, *read_after(session, found, known, touched))

    def standing(self, found: Round, readings: Readings, kept: KeptRows) -> OpenRound:
        """A round with what was read of its sheet. It is not kept yet."""
        return OpenRound(found, readings, kept, self._grouped)

    def keep(self, state: OpenRound) -> OpenRound:
        """Keeps a round at hand as it is in the store, unless a newer state of it is there."""
        with self._guard:
            before = self._states.get(state.round_id)
            if before is not None and before.version > state.version:
                state.superseded = True
                return state
            if before is not None and before.counts_the_same(state):
                state.counted, state.computed = before.counted, before.computed
            elif before is not None:
                before.superseded = True
            self._states[state.round_id] = state
            self._states.move_to_end(state.round_id)
            while len(self._states) > KEPT:
                self._states.popitem(last=False)
        if before is not None and before.superseded:
            self._ended(before)
        return state

    def forget(self, round_id: int) -> None:
        """Keeps nothing of the round at hand any more."""
        with self._guard:
            self._states.pop(round_id, None)


def read_after(session: Session, found: Round, known: OpenRound, touched: Touched) -> tuple[Readings, KeptRows]:
    """What is read of a round's sheet after a change of it, and the rows that are kept out or let go."""
    anew = touched.rows or touched.whole
    kept = kept_rows_of(session, found) if anew or touched.flags else known.kept
    readings = known.readings
    if touched.whole:
        return readings.anew(sheet_of(session, found)), kept
    if touched.sheet:
        before = len(readings.sheet.rows)
        rows = [*readings.sheet.rows[: found.row_count], *[()] * max(0, found.row_count - before)]
        changed = {number_of_row(row) for row, _ in touched.cells if row < found.row_count}
        changed |= {number_of_row(row) for row in range(before, found.row_count)}
        for number, cells in rows_now(session, found, changed).items():
            rows[row_of_number(number)] = cells
        sheet = replace(readings.sheet, rows=rows)
        readings = readings.anew(sheet) if touched.rows else readings.after(sheet, sorted(touched.cells))
    return readings, kept
