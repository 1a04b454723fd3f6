"""Beside last time: what the rows of a round, and of an earlier one, stood at."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy import select
from typing_extensions import override

from gentle_ledger.app.counting.at_hand import RoundAtHand
from gentle_ledger.app.counting.jobs import Job
from gentle_ledger.app.counting.reading_texts import order_of
from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.rounds.beside import Stood, as_said, stood_now
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.models import Message

_TEXTED = (Mark.TO_GO, Mark.GOING, Mark.SENT, Mark.UNSURE, Mark.FAILED)


@dataclass(frozen=True, slots=True)
class StoodAt:
    """The rows of a round that have a text, the column that their amounts are from, and their currency."""

    column: str
    currency: str
    rows: Sequence[Stood]


@dataclass(frozen=True, slots=True)
class StandNow(Job[StoodAt]):
    """Those of a round that is being prepared, but for the rows that are left out."""

    @override
    def answer(self, at_hand: RoundAtHand) -> StoodAt:
        computed, _ = at_hand.computed()
        column, rows = stood_now(computed, order_of(computed, "row"))
        return StoodAt(column, at_hand.opened.recipe.currency, rows)


@dataclass(frozen=True, slots=True)
class StoodThen(Job[StoodAt]):
    """Those of a round that was started, to which a text was to go.

    Number and text are the frozen ones. An amount is worked out anew, and counts only where it is what the text said:
    the round may be of another day, and what was sent is what was said.
    """

    @override
    def answer(self, at_hand: RoundAtHand) -> StoodAt:
        computed, _ = at_hand.computed()
        wanted = select(Message.row, Message.label, Message.address, Message.text).where(
            Message.round_id == at_hand.opened.round_id, Message.mark.in_(_TEXTED), Message.with_row.is_(None)
        )
        with at_hand.database.reading() as session:
            kept = {row_of_number(row): (label, number, text) for row, label, number, text in session.execute(wanted)}
        column, rows = stood_now(computed, sorted(kept))
        return StoodAt(column, at_hand.opened.recipe.currency, [_as_sent(stood, *kept[stood.row]) for stood in rows])


def _as_sent(stood: Stood, label: str, number: str, text: str) -> Stood:
    return as_said(replace(stood, label=label, number=number), text)
