"""Sheets, each under a number of its own: a long one is written down in pieces before anything goes by it.

Nobody waits for the ledger meanwhile, and what was cut off counts for nothing; it is cleared away later.
"""

import logging
import os
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, cast

from sqlalchemy import Table, insert
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.checks.release import Release
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sheets.versions import Originals
from gentle_ledger.store.cells import cells_to_json
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import Row, SheetNumber
from gentle_ledger.store.processes import Seen, process_id, seen, this_process
from gentle_ledger.store.releases import release_to_json
from gentle_ledger.store.statements import Statements

log = logging.getLogger(__name__)

PIECE = 1_000
"""Rows that are written together: some ten milliseconds, for which nobody else can write."""
_LONGEST = 500_000
"""Characters of cells that are written together, which takes about as long."""
_INSERT_ROW = insert(cast("Table", Row.__table__))
"""Straight into the table: nothing of the row is needed as an object."""


@dataclass(frozen=True, slots=True)
class KeptRows:
    """The rows (from 0) that the clerk left out, and those released from what held them."""

    left_out: frozenset[int] = frozenset()
    released: Mapping[int, Release] = field(default_factory=dict)


@contextmanager
def laid_sheet(
    database: Database, sheet: Sheet, kept: KeptRows | None = None, originals: Originals | None = None
) -> Iterator[int]:
    """Writes a sheet down in pieces, and gives its number; see `use_sheet`.

    Where no round goes by it in the end, it is cleared away.
    """
    with _laying(database) as number:
        for piece in _pieces(sheet, kept or KeptRows(), originals or {}):
            with database.writing(piece=True) as session:
                _put(session, number, piece)
        yield number


@contextmanager
def laid_copy(database: Database, sheet_id: int) -> Iterator[int]:
    """The same of the rows of another sheet, as they stand."""
    with _laying(database) as number:
        last: int | None = 0
        while last is not None:
            with database.writing_bare(piece=True) as ledger:
                last = _copy_piece(ledger, sheet_id, number, last)
        yield number


def _copy_piece(ledger: Statements, sheet_id: int, number: int, last: int) -> int | None:
    """Copies the rows after one; gives the last of them, None where there are no more."""
    upto = ledger.first(
        "SELECT max(number) FROM (SELECT number FROM sheet_rows WHERE sheet_id = ? AND number > ? "
        "ORDER BY number LIMIT ?)",
        *(sheet_id, last, PIECE),
    )[0]
    if upto is None:
        return None
    ledger.run(
        "INSERT INTO sheet_rows (sheet_id, number, cells, left_out, released, release, original, added, hidden) "
        "SELECT ?, number, cells, left_out, released, release, original, added, hidden "
        "FROM sheet_rows WHERE sheet_id = ? AND number > ? AND number <= ?",
        *(number, sheet_id, last, upto),
    )
    return cast("int", upto)


@contextmanager
def _laying(database: Database) -> Iterator[int]:
    with at_work() as token:
        with database.writing_bare() as ledger:
            number = cast("int", ledger.run("INSERT INTO sheets (laid_by) VALUES (?)", token).lastrowid)
        try:
            yield number
        finally:
            clear_sheet_if_may_be(database, number)


def put_sheet(session: Session, sheet: Sheet) -> int:
    """Writes a short sheet down in the caller's transaction, and gives its number."""
    made = SheetNumber()
    session.add(made)
    session.flush()
    for piece in _pieces(sheet, KeptRows(), {}):
        _put(session, made.id, piece)
    return made.id


def use_sheet(session: Session, number: int, round_id: int) -> None:
    """From now on a round goes by a sheet that was written down. Raises NotNow where it was cleared away."""
    made = session.get(SheetNumber, number)
    if made is None or made.round_id is not None:
        raise NotNow("The sheet was cleared away meanwhile by another copy of the program.", "Do it once more.")
    made.round_id, made.laid_by = round_id, ""
    session.flush()


def let_go(session: Session, number: int) -> None:
    """No round goes by a sheet any more: it is to be cleared away."""
    session.get_one(SheetNumber, number).round_id = None
    session.flush()


def clear_sheet(database: Database, number: int) -> None:
    """Clears a sheet away, in pieces, that no round goes by."""
    more = True
    while more:
        with database.writing_bare(piece=True) as ledger:
            if ledger.first("SELECT 1 FROM sheets WHERE id = ? AND round_id IS NULL", number) is None:
                return
            more = _remove_piece(ledger, number)
            if not more:
                ledger.run("DELETE FROM sheets WHERE id = ?", number)


def clear_sheet_if_may_be(database: Database, number: int) -> None:
    """The same; where the ledger cannot be written just now it is left for later, for what was done is done."""
    try:
        clear_sheet(database, number)
    except SQLAlchemyError:
        log.warning("A sheet that nothing goes by is cleared away later.", exc_info=True)


def _remove_piece(ledger: Statements, number: int) -> bool:
    """Takes a piece of the rows of a sheet away, from its end; False where there were none any more."""
    return (
        ledger.run(
            "DELETE FROM sheet_rows WHERE sheet_id = ? AND number IN (SELECT number FROM sheet_rows "
            "WHERE sheet_id = ? ORDER BY number DESC LIMIT ?)",
            *(number, number, PIECE),
        ).rowcount
        > 0
    )


def unused_sheets(ledger: Statements) -> list[int]:
    """The sheets that no round goes by, and that nobody writes down at this moment."""
    found = ledger.rows("SELECT id, laid_by FROM sheets WHERE round_id IS NULL")
    return [number for number, laid_by in found if not is_at_it(laid_by)]


_at_work: set[str] = set()
"""The names under which this process is writing something down in pieces."""


@contextmanager
def at_work() -> Iterator[str]:
    """A name under which this process writes something down in pieces, for as long as it does."""
    token = this_process()
    _at_work.add(token)
    try:
        yield token
    finally:
        _at_work.discard(token)


def is_at_it(token: str) -> bool:
    """Whether somebody may still be writing something down under a name.

    A process of another machine, or from before this one was started anew, is taken for gone: were it there, what it
    goes on with would be refused.
    """
    if process_id(token) == os.getpid():
        return token in _at_work
    return seen(token) in (Seen.RUNS, Seen.STOPPED)


def _pieces(sheet: Sheet, kept: KeptRows, originals: Originals) -> Iterator[list[dict[str, Any]]]:
    """The rows of a sheet as they are kept, in pieces that take a short while to write."""
    piece: list[dict[str, Any]] = []
    long = 0
    for row, cells in enumerate(sheet.rows):
        written = cells_to_json(cells)
        original = originals.get(row)
        piece.append(
            {
                "number": number_of_row(row),
                "cells": written,
                "left_out": row in kept.left_out,
                "released": row in kept.released,
                "release": release_to_json(kept.released.get(row)),
                "original": None if original is None else cells_to_json(original),
                "added": row in originals and original is None,
                "hidden": row in sheet.hidden,
            }
        )
        long += len(written)
        if len(piece) == PIECE or long > _LONGEST:
            yield piece
            piece, long = [], 0
    if piece:
        yield piece


def _put(session: Session, number: int, piece: list[dict[str, Any]]) -> None:
    session.execute(_INSERT_ROW, [{"sheet_id": number, **row} for row in piece])
