"""Mending cells and adding rows while a round is prepared; each step can be undone and done again."""

import json
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS, Cell, as_written
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.sheets.model import MAX_ROWS
from gentle_ledger.store.cells import cells_from_json, cells_to_json
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.models import Correction, Round, Row
from gentle_ledger.store.rounds import cells_changed, columns_of


@dataclass(frozen=True, slots=True)
class Mend:
    """A cell that gets another content: `row` from 0, `column` its position."""

    row: int
    column: int
    cell: Cell


@dataclass(frozen=True, slots=True)
class Done:
    """What a step changed: the cells by row and column (from 0), and, with `rows`, the number of rows.

    Rows left out or taken back change neither.
    """

    cells: tuple[tuple[int, int], ...] = ()
    rows: bool = False


def mend(session: Session, found: Round, mends: Sequence[Mend]) -> Done:
    """Gives cells another content, all of them as one step."""
    step = _new_step(session, found)
    for each in mends:
        row = _row(session, found, each.row + 1)
        if isinstance(each.cell, str) and len(each.cell) > MAX_CELL_CHARACTERS:
            raise NotNow(f"A cell holds at most {MAX_CELL_CHARACTERS:,} characters.", row=row.number)
        before = cells_from_json(row.cells)[each.column]
        session.add(
            Correction(
                round_id=found.id,
                step=step,
                row=row.number,
                column=each.column,
                before=cells_to_json([before]),
                after=cells_to_json([each.cell]),
                undone=False,
            )
        )
        _write(row, each.column, each.cell)
    cells_changed(found)
    return Done(tuple((each.row, each.column) for each in mends))


def add_row(session: Session, found: Round) -> int:
    """A blank row at the end; its number."""
    if found.row_count >= MAX_ROWS:
        raise NotNow(f"The sheet has {MAX_ROWS:,} rows; it can have no more.")
    step = _new_step(session, found)
    number = found.row_count + 1
    _put_row(session, found, number)
    session.add(Correction(round_id=found.id, step=step, row=number, column=None, undone=False))
    cells_changed(found)
    return number


def leave_out(session: Session, found: Round, rows: Sequence[int], out: bool) -> None:
    """Leaves rows (from 1) out, or takes them back, as one step."""
    step = _new_step(session, found)
    for number in rows:
        row = _row(session, found, number)
        if row.left_out != out:
            before, after = (json.dumps(flag) for flag in (row.left_out, out))
            session.add(Correction(round_id=found.id, step=step, row=number, before=before, after=after, undone=False))
            row.left_out = out
    found.version += 1


def undo(session: Session, found: Round) -> Done:
    """Takes the last step back."""
    steps = _step(session, found, undone=False)
    if not steps:
        raise NotNow("There is nothing to undo.")
    return _go(session, found, steps, back=True)


def redo(session: Session, found: Round) -> Done:
    """Does the step again that was last taken back."""
    steps = _step(session, found, undone=True)
    if not steps:
        raise NotNow("There is nothing to do again.")
    return _go(session, found, steps, back=False)


def what_can_be_undone(session: Session, found: Round) -> tuple[str | None, str | None]:
    """What Undo and Redo would do, in words; None where there is nothing."""
    names = columns_of(found)
    return tuple(_said(names, _step(session, found, undone=undone)) for undone in (False, True))  # type: ignore[return-value]


def originals_of(session: Session, found: Round, rows: Sequence[int]) -> dict[int, tuple[Cell, ...] | None]:
    """The cells as brought in, of those of the rows (from 0) that were mended; None for a row that was added."""
    wanted = select(Row.number, Row.original, Row.added).where(
        Row.round_id == found.id, Row.number.in_([row + 1 for row in rows]), (Row.original.is_not(None)) | Row.added
    )
    return {
        number - 1: None if added else cells_from_json(original or "[]")
        for number, original, added in session.execute(wanted)
    }


def _said(names: Sequence[str], steps: Sequence[Correction]) -> str | None:
    if not steps:
        return None
    first = steps[0]
    if first.column is None and first.after is None:
        return f"adding row {first.row}"
    if first.column is None:
        which = f"row {first.row}" if len(steps) == 1 else count(len(steps), "row")
        return f"leaving {which} out" if first.after == "true" else f"taking {which} back"
    if len(steps) > 1:
        return f"mending {count(len(steps), 'cell')}"
    after = clipped(as_written(cells_from_json(first.after or "[null]")[0]), 20)
    return f'"{after}" in row {first.row}, {names[first.column]}'


def _new_step(session: Session, found: Round) -> int:
    """The number of a new step. What was undone before it can no longer be done again."""
    session.execute(delete(Correction).where(Correction.round_id == found.id, Correction.undone))
    last = session.scalar(select(func.max(Correction.step)).where(Correction.round_id == found.id))
    return (last or 0) + 1


def _step(session: Session, found: Round, *, undone: bool) -> list[Correction]:
    which = func.min(Correction.step) if undone else func.max(Correction.step)
    mine = (Correction.round_id == found.id, Correction.undone == undone)
    step = session.scalar(select(which).where(*mine))
    return list(session.scalars(select(Correction).where(*mine, Correction.step == step).order_by(Correction.id)))


def _go(session: Session, found: Round, steps: Sequence[Correction], *, back: bool) -> Done:
    cells = []
    rows = False
    for one in reversed(steps) if back else steps:
        if one.column is None and one.after is not None:
            _row(session, found, one.row).left_out = json.loads((one.before if back else one.after) or "false")
        elif one.column is None:
            rows = True
            if back:
                session.execute(delete(Row).where(Row.round_id == found.id, Row.number == one.row))
                found.row_count -= 1
            else:
                _put_row(session, found, one.row)
        elif one.column is not None:
            content = (one.before if back else one.after) or "[null]"
            _write(_row(session, found, one.row), one.column, cells_from_json(content)[0])
            cells.append((one.row - 1, one.column))
        one.undone = back
    cells_changed(found)
    return Done(tuple(cells), rows)


def _put_row(session: Session, found: Round, number: int) -> None:
    blank = cells_to_json([None] * len(columns_of(found)))
    session.add(Row(round_id=found.id, number=number, cells=blank, added=True))
    session.flush()
    found.row_count = number


def _row(session: Session, found: Round, number: int) -> Row:
    row = session.get(Row, (found.id, number))
    if row is None:
        raise NotThere(f"There is no row {number} in this round.", row=number)
    return row


def _write(row: Row, column: int, cell: Cell) -> None:
    if row.original is None and not row.added:
        row.original = row.cells
    cells = list(cells_from_json(row.cells))
    cells[column] = cell
    row.cells = cells_to_json(cells)
    if row.cells == row.original:
        row.original = None
