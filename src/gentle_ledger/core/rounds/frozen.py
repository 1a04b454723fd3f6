"""A computed round as it is written down when sending starts: nothing computed changes after that."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.words import listed
from gentle_ledger.core.pace.decide import RowState
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.core.rounds.turns import turns_of


@dataclass(frozen=True, slots=True)
class FrozenRow:
    """One row.

    Attributes:
        row: counted from 0.
        label: what a clerk calls it.
        number: E.164, or "".
        text: that of the row that bears it.
        parts: how many parts that text is carried in.
        bears: the row (from 0) whose text this one goes in; itself, unless rows are combined.
        mark: where it stands.
        reasons: why it is not ready.
        codes: its references as they are compared.
        released: why the clerk let it go, and from what; None for a row that nothing held.
        place: its place in the order in which the texts leave, the smallest first; None for the sheet's own order.
        moment: its own, before which it is not to leave, in POSIX seconds; None for none.
        zones: those that its recipient can be in (IANA).
    """

    row: int
    label: str
    number: str
    text: str
    parts: int
    bears: int
    mark: PlanMark
    reasons: tuple[Reason, ...]
    codes: tuple[str, ...]
    released: Reason | None = None
    place: int | None = None
    moment: float | None = None
    zones: tuple[str, ...] = ()

    @property
    def goes(self) -> bool:
        """True for a row whose own text is to be sent."""
        return self.mark is PlanMark.READY and self.bears == self.row


def those_to_go(rows: Sequence[FrozenRow], chosen: Collection[int] | None = None) -> list[FrozenRow]:
    """The rows whose own texts are sent when a round starts.

    Args:
        rows: every row, in order.
        chosen: the rows (from 0) that are to be sent, any row of a text standing for it; None for all that are ready.
    """
    bearing = None if chosen is None else {rows[row].bears for row in chosen if 0 <= row < len(rows)}
    return [frozen for frozen in rows if frozen.goes and (bearing is None or frozen.row in bearing)]


RELEASED = reason_kind("released by hand", "released by hand: {why} (held because {held})")


def released_by_hand(computed: Computed, row: int) -> Reason | None:
    """Why a row that is ready was let go, and from what; None for one that nothing held."""
    held = computed.let_go.get(row)
    if not held or computed.marks[row] is not PlanMark.READY:
        return None
    why = computed.released[row].reason or "no reason given"
    return RELEASED(why=why, held=listed([finding.reason.sentence for finding in held]))


def frozen_rows(computed: Computed, office: str, recipe: Recipe | None = None) -> Iterator[FrozenRow]:
    """Every row, in order, where the office is in that zone (IANA). `recipe` has its pace, if another."""
    turns = {
        turn.row: (place, turn.state)
        for place, turn in enumerate(turns_of(computed, recipe or computed.composer.recipe, office))
    }
    behind = (len(computed), RowState())
    for row, mark in enumerate(computed.marks):
        lead = computed.lead(row)
        yield FrozenRow(
            row,
            computed.composer.label(row),
            computed.numbers[row].e164,
            computed.texts[lead],
            computed.measures[lead].parts,
            lead,
            mark,
            tuple(computed.reasons(row)),
            tuple(computed.codes(row)),
            released_by_hand(computed, lead),
            turns.get(lead, behind)[0],
            turns.get(lead, behind)[1].moment,
            turns.get(lead, behind)[1].zones,
        )
