"""The rounds that are being worked on, read once and kept at hand: sheet, recipe and what was computed."""

import threading
from collections import OrderedDict
from dataclasses import dataclass, field
from functools import cached_property

from sqlalchemy.orm import Session

from gentle_ledger.core.compute import Composer, Computed, Workings
from gentle_ledger.core.recipe import Recipe
from gentle_ledger.core.sheets.model import as_written
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import kept_rows_of, recipe_of, sheet_of

_KEPT = 6


@dataclass
class DeskState:
    """One round at one version. `computed` is worked out when it is first asked for, and once only."""

    round_id: int
    version: int
    workings: Workings
    recipe: Recipe
    left_out: frozenset[int]
    released: frozenset[int]
    _guard: threading.Lock = field(default_factory=threading.Lock)
    _computed: Computed | None = None

    @cached_property
    def composer(self) -> Composer:
        return Composer(self.workings, self.recipe)

    def computed(self) -> Computed:
        with self._guard:
            if self._computed is None:
                self._computed = Computed(self.composer, self.left_out, self.released)
            return self._computed


class Desks:
    """The last few rounds that were looked at. A round's sheet is read once; its version says when the rest changed."""

    def __init__(self) -> None:
        self._states: OrderedDict[int, DeskState] = OrderedDict()
        self._haystacks: dict[int, list[str]] = {}
        self._guard = threading.Lock()

    def state(self, session: Session, found: Round) -> DeskState:
        with self._guard:
            known = self._states.get(found.id)
            if known is not None and known.version == found.version:
                self._states.move_to_end(found.id)
                return known
            workings = known.workings if known is not None else Workings(sheet_of(session, found))
            kept = kept_rows_of(session, found)
            state = DeskState(found.id, found.version, workings, recipe_of(found), kept.left_out, kept.released)
            self._keep(state)
            return state

    def with_recipe(self, known: DeskState, version: int, recipe: Recipe) -> DeskState:
        """The state after a change of the recipe only: no row is read again."""
        state = DeskState(known.round_id, version, known.workings, recipe, known.left_out, known.released)
        with self._guard:
            self._keep(state)
        return state

    def _keep(self, state: DeskState) -> None:
        self._states[state.round_id] = state
        self._states.move_to_end(state.round_id)
        while len(self._states) > _KEPT:
            gone, _ = self._states.popitem(last=False)
            self._haystacks.pop(gone, None)

    def forget(self, round_id: int) -> None:
        with self._guard:
            self._states.pop(round_id, None)
            self._haystacks.pop(round_id, None)

    def search(self, state: DeskState, words: str) -> list[int]:
        """The rows (from 0) that hold every one of the words, in any of their cells."""
        haystack = self._haystacks.get(state.round_id)
        if haystack is None:
            rows = state.workings.sheet.rows
            haystack = [" ".join(as_written(cell) for cell in row).casefold() for row in rows]
            self._haystacks[state.round_id] = haystack
        needles = words.casefold().split()
        return [row for row, hay in enumerate(haystack) if all(needle in hay for needle in needles)]
