"""The rows of a round: their cells, which of them are left out or released, and earlier ones kept beside."""

import json
from collections.abc import Collection, Iterable, Sequence
from typing import Any, cast

from sqlalchemy import Table, bindparam, delete, func, insert, select, update
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS, Cell
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.sheets.model import MAX_ROWS, Sheet
from gentle_ledger.store.cells import cells_from_json, cells_to_json
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.models import EarlierSheet, Round, Row
from gentle_ledger.store.rounds import columns_of
from gentle_ledger.store.sheets import PIECE, use_sheet

_FEW = PIECE
"""Rows that are asked for one by one; of more than these all rows are read."""
_ROWS = cast("Table", Row.__table__)
_WRITE_CELLS = (
    update(_ROWS)
    .where(_ROWS.c.sheet_id == bindparam("of"), _ROWS.c.number == bindparam("at"))
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
        written.append({"of": found.sheet_id, "at": number, "now": now, "was": None if now == original else original})
    if written:
        session.connection().execute(_WRITE_CELLS, written)
        session.expire_all()


def _kept(session: Session, found: Round, numbers: Collection[RowNumber]) -> dict[RowNumber, Any]:
    session.flush()
    wanted = select(_ROWS.c.number, _ROWS.c.cells, _ROWS.c.original, _ROWS.c.added)
    wanted = wanted.where(_ROWS.c.sheet_id == found.sheet_id).order_by(_ROWS.c.number)
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
    added = [{"sheet_id": found.sheet_id, "number": row_of_number(first) + i + 1, "cells": blank} for i in range(rows)]
    same = {"left_out": False, "released": False, "release": "", "added": True, "hidden": False}
    session.connection().execute(insert(_ROWS), [{**row, **same} for row in added])
    found.row_count = last
    session.flush()


def remove_last_rows(session: Session, found: Round, first: RowNumber) -> None:
    """Takes the rows from that one on away again."""
    session.execute(delete(Row).where(Row.sheet_id == found.sheet_id, Row.number >= first))
    found.row_count = row_of_number(first)


def set_flag(session: Session, found: Round, numbers: Sequence[RowNumber], name: str, value: bool) -> None:
    """Leaves rows (from 1) out or releases them, or takes that back. Raises NotThere."""
    mine = (Row.sheet_id == found.sheet_id, Row.number.in_(numbers))
    there = set(session.scalars(select(Row.number).where(*mine)))
    if gone := [number for number in numbers if number not in there]:
        raise NotThere(f"There is no row {gone[0]} in this round.", row=gone[0])
    session.execute(update(Row).where(*mine).values({name: value}))


def release_now(session: Session, found: Round, number: RowNumber) -> str | None:
    """The release of a row (from 1) as it is kept; None for one that is not released. Raises NotThere."""
    row = _row(session, found, number)
    return row.release if row.released else None


def set_release(session: Session, found: Round, number: RowNumber, release: str | None) -> None:
    """Releases a row (from 1), or holds it again. Raises NotThere."""
    row = _row(session, found, number)
    row.released, row.release = release is not None, release or ""
    session.flush()


def originals_of(
    session: Session, found: Round, rows: Sequence[int] | None = None
) -> dict[int, tuple[Cell, ...] | None]:
    """The cells as brought in, of those of the rows (from 0, or all) that were mended; None for one that was added."""
    wanted = select(Row.number, Row.original, Row.added).where(
        Row.sheet_id == found.sheet_id, (Row.original.is_not(None)) | Row.added
    )
    if rows is not None:
        wanted = wanted.where(Row.number.in_([number_of_row(row) for row in rows]))
    return {
        row_of_number(number): None if added else cells_from_json(original or "[]")
        for number, original, added in session.execute(wanted)
    }


def replace_sheet(session: Session, found: Round, sheet: Sheet, laid: int, file_name: str, reading: str) -> int:
    """Puts a sheet that was written down in the place of the one there is; this is kept under the number it gives."""
    aside = EarlierSheet(
        round_id=found.id,
        sheet_id=found.sheet_id,
        columns=found.columns,
        file_name=found.file_name,
        reading=found.reading,
    )
    session.add(aside)
    use_sheet(session, laid, found.id)
    found.sheet_id = laid
    found.columns = json.dumps(sheet.columns, ensure_ascii=False)
    found.row_count = len(sheet.rows)
    found.file_name = file_name
    found.reading = reading
    return aside.id


def standing_for(round_id: int, sheet_id: int, columns: Sequence[str], rows: int) -> Round:
    """A round as it would be if it went by a sheet; it is never kept."""
    return Round(id=round_id, sheet_id=sheet_id, columns=json.dumps(columns, ensure_ascii=False), row_count=rows)


def earlier_sheet(session: Session, kept: int) -> Round:
    """The same for the sheet that is kept under a number."""
    earlier = session.get_one(EarlierSheet, kept)
    return standing_for(earlier.round_id, earlier.sheet_id, json.loads(earlier.columns), 0)


def swap_sheets(session: Session, found: Round, kept: int) -> None:
    """Puts the sheet that is kept under a number back, and keeps the one that stood there under it instead."""
    earlier = session.get_one(EarlierSheet, kept)
    for name in ("sheet_id", "columns", "file_name", "reading"):
        before = getattr(found, name)
        setattr(found, name, getattr(earlier, name))
        setattr(earlier, name, before)
    wanted = select(func.count()).select_from(Row).where(Row.sheet_id == found.sheet_id)
    found.row_count = session.scalar(wanted) or 0
    session.flush()


def _row(session: Session, found: Round, number: RowNumber) -> Row:
    row = session.get(Row, (found.sheet_id, number))
    if row is None:
        raise NotThere(f"There is no row {number} in this round.", row=number)
    return row
