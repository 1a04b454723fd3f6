"""The rows of a round: their cells, which of them are left out or released, and earlier ones kept beside."""

import json
from collections.abc import Collection, Iterable, Sequence
from typing import Any, cast

from sqlalchemy import CursorResult, Table, bindparam, delete, func, insert, literal, select, update
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS, Cell
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.sheets.model import MAX_ROWS, Sheet
from gentle_ledger.store.cells import cells_from_json, cells_to_json
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.models import EarlierRow, EarlierSheet, Round, Row
from gentle_ledger.store.rounds import KeptRows, columns_of, put_rows

_CARRIED = ("number", "cells", "left_out", "released", "release", "original", "added", "hidden")
"""What of a row is kept when another sheet takes its place."""


_FEW = 500
"""Rows that are asked for one by one; of more than these all rows are read."""
_ROWS = cast("Table", Row.__table__)
_WRITE_CELLS = (
    update(_ROWS)
    .where(_ROWS.c.round_id == bindparam("of"), _ROWS.c.number == bindparam("at"))
    .values(cells=bindparam("now"), original=bindparam("was"))
)


def rows_now(session: Session, found: Round, numbers: Collection[RowNumber]) -> dict[RowNumber, tuple[Cell, ...]]:
    """The cells of some rows (from 1) as they stand. Raises NotThere."""
    return {number: cells_from_json(kept.cells) for number, kept in _kept(session, found, numbers).items()}


def write_cells(session: Session, found: Round, cells: Iterable[tuple[RowNumber, int, Cell]]) -> None:
    """Gives cells (row from 1, column from 0) another content, each row in one go: the ledger is locked meanwhile.

    What was brought in stays beside it. Raises NotThere, or NotNow for too much.
    """
    changes: dict[RowNumber, dict[int, Cell]] = {}
    for number, column, cell in cells:
        if isinstance(cell, str) and len(cell) > MAX_CELL_CHARACTERS:
            raise NotNow(f"A cell holds at most {MAX_CELL_CHARACTERS:,} characters.", row=number)
        changes.setdefault(number, {})[column] = cell
    written = []
    for number, kept in _kept(session, found, changes).items():
        content = list(cells_from_json(kept.cells))
        for column, cell in changes[number].items():
            content[column] = cell
        now = cells_to_json(content)
        original = kept.cells if kept.original is None and not kept.added else kept.original
        written.append({"of": found.id, "at": number, "now": now, "was": None if now == original else original})
    if written:
        session.connection().execute(_WRITE_CELLS, written)
        session.expire_all()


def _kept(session: Session, found: Round, numbers: Collection[RowNumber]) -> dict[RowNumber, Any]:
    session.flush()
    wanted = select(_ROWS.c.number, _ROWS.c.cells, _ROWS.c.original, _ROWS.c.added)
    wanted = wanted.where(_ROWS.c.round_id == found.id).order_by(_ROWS.c.number)
    if len(numbers) <= _FEW:
        wanted = wanted.where(_ROWS.c.number.in_(list(numbers)))
    kept = {row.number: row for row in session.connection().execute(wanted)}
    for number in numbers:
        if number not in kept:
            raise NotThere(f"There is no row {number} in this round.", row=number)
    return {number: kept[number] for number in numbers}


def put_blank_rows(session: Session, found: Round, first: RowNumber, rows: int) -> None:
    """Adds blank rows at the end. Raises NotNow when there would be more than there can be."""
    last = row_of_number(first) + rows
    if last > MAX_ROWS:
        raise NotNow(f"A sheet has at most {MAX_ROWS:,} rows; there can be no more.")
    blank = cells_to_json([None] * len(columns_of(found)))
    added = [{"round_id": found.id, "number": row_of_number(first) + i + 1, "cells": blank} for i in range(rows)]
    same = {"left_out": False, "released": False, "release": "", "added": True, "hidden": False}
    session.connection().execute(insert(_ROWS), [{**row, **same} for row in added])
    found.row_count = last
    session.flush()


def remove_last_rows(session: Session, found: Round, first: RowNumber) -> None:
    """Takes the rows from that one on away again."""
    session.execute(delete(Row).where(Row.round_id == found.id, Row.number >= first))
    found.row_count = row_of_number(first)


def flagged(session: Session, found: Round, name: str, rows: Sequence[RowNumber], value: bool) -> list[RowNumber]:
    """Those of the rows (from 1) whose flag `name` is not `value` yet. Raises NotThere."""
    return [number for number in rows if getattr(_row(session, found, number), name) is not value]


def set_flag(session: Session, found: Round, number: RowNumber, name: str, value: bool) -> None:
    """Leaves a row (from 1) out or releases it, or takes that back. Raises NotThere."""
    statement = update(Row).where(Row.round_id == found.id, Row.number == number).values({name: value})
    if cast("CursorResult[object]", session.execute(statement)).rowcount != 1:
        raise NotThere(f"There is no row {number} in this round.", row=number)


def release_now(session: Session, found: Round, number: RowNumber) -> str | None:
    """The release of a row (from 1) as it is kept; None for one that is not released. Raises NotThere."""
    row = _row(session, found, number)
    return row.release if row.released else None


def set_release(session: Session, found: Round, number: RowNumber, release: str | None) -> None:
    """Releases a row (from 1), or holds it again. Raises NotThere."""
    row = _row(session, found, number)
    row.released, row.release = release is not None, release or ""
    session.flush()


def originals_of(session: Session, found: Round, rows: Sequence[int]) -> dict[int, tuple[Cell, ...] | None]:
    """The cells as brought in, of those of the rows (from 0) that were mended; None for a row that was added."""
    wanted = select(Row.number, Row.original, Row.added).where(
        Row.round_id == found.id,
        Row.number.in_([number_of_row(row) for row in rows]),
        (Row.original.is_not(None)) | Row.added,
    )
    return {
        row_of_number(number): None if added else cells_from_json(original or "[]")
        for number, original, added in session.execute(wanted)
    }


def replace_sheet(session: Session, found: Round, sheet: Sheet, kept: KeptRows, file_name: str, reading: str) -> int:
    """Puts another sheet in the place of the rows there are; these are kept under the number it gives back."""
    number = _lay_aside(session, found)
    put_rows(session, found, sheet, kept)
    found.columns = json.dumps(sheet.columns, ensure_ascii=False)
    found.row_count = len(sheet.rows)
    found.file_name = file_name
    found.reading = reading
    return number


def swap_rows(session: Session, found: Round, kept: int) -> None:
    """Puts the rows that are kept under a number back, and keeps those that stood there under it instead."""
    earlier = session.get_one(EarlierSheet, kept)
    was = (earlier.columns, earlier.file_name, earlier.reading)
    other = _lay_aside(session, found)
    columns = [getattr(EarlierRow, name) for name in _CARRIED]
    session.execute(
        insert(Row).from_select(
            ["round_id", *_CARRIED],
            select(literal(found.id), *columns).where(EarlierRow.sheet_id == kept).order_by(EarlierRow.number),
        )
    )
    found.columns, found.file_name, found.reading = was
    found.row_count = session.scalar(select(func.count()).select_from(Row).where(Row.round_id == found.id)) or 0
    # What was laid aside just now takes the number, so that the change that names it stays right.
    session.execute(delete(EarlierRow).where(EarlierRow.sheet_id == kept))
    session.execute(update(EarlierRow).where(EarlierRow.sheet_id == other).values(sheet_id=kept))
    aside = session.get_one(EarlierSheet, other)
    earlier.columns, earlier.file_name, earlier.reading = aside.columns, aside.file_name, aside.reading
    session.delete(aside)
    session.flush()
    session.expire_all()


def _lay_aside(session: Session, found: Round) -> int:
    session.flush()
    aside = EarlierSheet(round_id=found.id, columns=found.columns, file_name=found.file_name, reading=found.reading)
    session.add(aside)
    session.flush()
    columns = [getattr(Row, name) for name in _CARRIED]
    session.execute(
        insert(EarlierRow).from_select(
            ["sheet_id", *_CARRIED], select(literal(aside.id), *columns).where(Row.round_id == found.id)
        )
    )
    session.execute(delete(Row).where(Row.round_id == found.id))
    session.expire_all()
    return aside.id


def _row(session: Session, found: Round, number: RowNumber) -> Row:
    row = session.get(Row, (found.id, number))
    if row is None:
        raise NotThere(f"There is no row {number} in this round.", row=number)
    return row
