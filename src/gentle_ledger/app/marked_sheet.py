"""The marked sheet of a round: its columns, the computed ones, and what became of each row."""

from collections.abc import Iterator
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.columns.display import outputs
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.sheets.export import MarkedRow, to_csv, to_xlsx
from gentle_ledger.core.sms.parts import measure
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.store.models import Message

Kind = Literal["csv", "xlsx"]
_WRITERS = {"csv": to_csv, "xlsx": to_xlsx}


def planned_sheet(kind: Kind, computed: Computed) -> bytes:
    """The file of a round that is being prepared."""
    return _WRITERS[kind](computed.composer.columns.names, _planned(computed))


def sent_sheet(kind: Kind, session: Session, round_id: int, composer: Composer) -> bytes:
    """The file of a round that was started: marks and texts as they are on record."""
    return _WRITERS[kind](composer.columns.names, _sent(session, round_id, composer))


def _planned(computed: Computed) -> Iterator[MarkedRow]:
    composer = computed.composer
    more = outputs(composer.evaluation).values()
    for row, cells in enumerate(composer.readings.sheet.rows):
        text = computed.texts[row]
        parts = computed.measures[row].parts if text else None
        yield MarkedRow(
            (*cells, *(v(row) for v in more)), computed.marks[row], None, computed.reason(row), "", parts, text
        )


def _sent(session: Session, round_id: int, composer: Composer) -> Iterator[MarkedRow]:
    cells = composer.readings.sheet.rows
    more = outputs(composer.evaluation).values()
    wanted = select(Message).where(Message.round_id == round_id).order_by(Message.row)
    for message in session.scalars(wanted.execution_options(yield_per=2_000)):
        row = row_of_number(message.row)
        reached = message.mark not in {Mark.HELD, Mark.LEFT_OUT, Mark.TO_GO}
        yield MarkedRow(
            (*cells[row], *(value(row) for value in more)),
            message.mark,
            message.marked_at if reached else None,
            message.reason,
            message.reference or "",
            measure(message.text).parts if message.text else None,
            message.text,
        )
