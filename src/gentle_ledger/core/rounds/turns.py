"""The texts of a computed round in the order in which they leave, and what the pace must know of each."""

from collections.abc import Collection
from dataclasses import dataclass

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.zones import zones_of
from gentle_ledger.core.columns.own_times import OwnTimes
from gentle_ledger.core.pace.decide import RowState
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import Computed


@dataclass(frozen=True, slots=True)
class RowTurn:
    """One text.

    Attributes:
        row: the row (from 0) that bears it.
        state: what the pace must know of it.
        timed: whether its own moment has a time of day.
    """

    row: int
    state: RowState
    timed: bool = True


def turns_of(computed: Computed, recipe: Recipe, office: str, rows: Collection[int] | None = None) -> list[RowTurn]:
    """The ready texts in their order, where the office is in that zone (IANA); those of some rows, or all.

    The pace is that of the recipe, which may be a newer one than that of the computed round. A text of which it cannot
    be said when it may leave is held by a check, and none of them.
    """
    times = OwnTimes(computed.composer.evaluation, recipe)
    ready = [row for row in computed.ready if rows is None or row in rows]
    ordered = times.in_order(ready, {row: computed.numbers[row].e164 for row in ready})
    if times.at is None and times.zone is None:
        # Most rounds: then all that is told of a row is where its number is.
        states: dict[tuple[str, ...], RowState] = {}
        turns = []
        for row in ordered:
            zones = zones_of(computed.numbers[row].e164)
            state = states.get(zones)
            if state is None:
                told = times.state(row, computed.numbers[row].e164, office)
                state = states[zones] = RowState() if isinstance(told, Reason) else told
            if state.zones or not times.by_recipient:
                turns.append(RowTurn(row, state))
        return turns
    found = ((row, times.state(row, computed.numbers[row].e164, office)) for row in ordered)
    return [RowTurn(row, state, times.timed(row)) for row, state in found if not isinstance(state, Reason)]
