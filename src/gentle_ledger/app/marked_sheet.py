"""The marked sheet of a round: its columns, the computed ones, and what became of each row."""

from collections.abc import Callable, Iterator, Sequence
from datetime import date
from decimal import Decimal
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.columns.display import outputs
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.frozen import released_by_hand
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.sheets.export import MarkedRow, to_csv, to_xlsx
from gentle_ledger.core.sms.parts import measure
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.store.models import Message

Kind = Literal["csv", "xlsx"]
_WRITERS = {"csv": to_csv, "xlsx": to_xlsx}


def planned_sheet(kind: Kind, computed: Computed) -> bytes:
    """The file of a round that is being prepared."""
    return _WRITERS[kind](computed.composer.columns.names, _planned(computed, _cells_for(kind, computed.composer)))


def sent_sheet(kind: Kind, session: Session, round_id: int, composer: Composer) -> bytes:
    """The file of a round that was started: marks and texts as they are on record."""
    return _WRITERS[kind](composer.columns.names, _sent(session, round_id, composer, _cells_for(kind, composer)))


CellsOf = Callable[[int], Sequence[Cell]]
"""The cells of a row (from 0) as they are written to the file."""


def _cells_for(kind: Kind, composer: Composer) -> CellsOf:
    """A CSV has the cells as they stood; in a workbook a figure is a figure and a day a day, whatever they came as."""
    rows = composer.readings.sheet.rows
    if kind == "csv":
        return rows.__getitem__
    told = {
        at: composer.readings.values(at, role, composer.recipe)
        for at, role in enumerate(composer.columns.roles[: composer.columns.first_computed])
        if role.counts or role is Role.DATE
    }

    def cells(row: int) -> Sequence[Cell]:
        found = list(rows[row])
        for at, values in told.items():
            cell, value = found[at], values[row]
            # A share such as 1.5% keeps its sign: as 0.015 the clerk would not know it again.
            if isinstance(cell, str) and isinstance(value, (Decimal, date)) and "%" not in cell:
                found[at] = value
        return found

    return cells


def _planned(computed: Computed, cells_of: CellsOf) -> Iterator[MarkedRow]:
    composer = computed.composer
    more = outputs(composer.evaluation).values()
    for row in range(len(composer.readings.sheet.rows)):
        cells = cells_of(row)
        text = computed.texts[row]
        parts = computed.measures[row].parts if text else None
        yield MarkedRow(
            (*cells, *(v(row) for v in more)), computed.marks[row], None, _why(computed, row), "", parts, text
        )


def _why(computed: Computed, row: int) -> str:
    released = released_by_hand(computed, row)
    return "; ".join(said for said in (computed.reason(row), released.sentence if released else "") if said)


def _sent(session: Session, round_id: int, composer: Composer, cells_of: CellsOf) -> Iterator[MarkedRow]:
    more = outputs(composer.evaluation).values()
    wanted = select(Message).where(Message.round_id == round_id).order_by(Message.row)
    for message in session.scalars(wanted.execution_options(yield_per=2_000)):
        row = row_of_number(message.row)
        reached = message.mark not in {Mark.READY, Mark.HELD, Mark.LEFT_OUT, Mark.TO_GO}
        yield MarkedRow(
            (*cells_of(row), *(value(row) for value in more)),
            message.mark,
            message.marked_at if reached else None,
            "; ".join(said for said in (message.reason, message.released) if said),
            message.reference or "",
            measure(message.text).parts if message.text else None,
            message.text,
        )
