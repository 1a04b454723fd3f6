"""From a plain grid of cells to a Sheet: the header row checked, empty edges cut, every refusal a sentence."""

import re
from collections.abc import Iterable, Sequence
from decimal import Decimal

from gentle_ledger.core.errors import SheetError
from gentle_ledger.core.sheets.model import (
    MAX_CELL_CHARACTERS,
    MAX_COLUMNS,
    MAX_ROWS,
    Cell,
    Sheet,
    as_written,
    column_key,
    is_blank,
)
from gentle_ledger.core.words import clipped, count

_AMOUNT_OR_PHONE = re.compile(r"[^\w]*\d[\d,]*\.\d+|\+?(?:[\s().\-/]*\d){7,}")


def sheet_from_grid(grid: Iterable[Sequence[Cell]]) -> Sheet:
    """Reads a grid whose first row with anything in it is the header.

    Rows with nothing in them are passed over; columns with neither a name nor a value are dropped.
    Raises SheetError, naming row and column, for anything that cannot be read without guessing.
    """
    filled = (row for row in grid if not all(is_blank(cell) for cell in row))
    header = next(filled, None)
    if header is None:
        raise SheetError(
            "The sheet is empty.",
            "Bring in a sheet with a row of column names and at least one row below it.",
        )
    width = _last_filled(header) + 1
    _refuse_missing_header(header[:width])
    rows: list[tuple[Cell, ...]] = []
    for row in filled:
        if len(rows) == MAX_ROWS:
            raise SheetError(
                f"The sheet has more than {MAX_ROWS:,} rows.", "Split it into smaller sheets, one round each."
            )
        rows.append(_checked_row(row, width, len(rows) + 1, header))
    names = _column_names(header[:width], rows)
    kept = [i for i, name in enumerate(names) if name]
    if len(kept) > MAX_COLUMNS:
        raise SheetError(
            f"The sheet has {count(len(kept), 'column')}; at most {MAX_COLUMNS} can be read.",
            "Leave out some columns.",
        )
    if not rows:
        raise SheetError("The sheet has column names but no rows.", "Add at least one row below the names.")
    if len(kept) < width:
        rows = [tuple(row[i] for i in kept) for row in rows]
    return Sheet(tuple(names[i] for i in kept), rows)


def _last_filled(row: Sequence[Cell]) -> int:
    return max((i for i, cell in enumerate(row) if not is_blank(cell)), default=-1)


def _refuse_missing_header(header: Sequence[Cell]) -> None:
    """A first row with a date, an amount or a phone number in it, or without a word, is data: the header is missing."""
    data = [i for i, cell in enumerate(header) if _is_data(cell)]
    if not data and not any(isinstance(cell, str) and any(c.isalpha() for c in cell) for cell in header):
        data = [i for i, cell in enumerate(header) if not is_blank(cell)]
    if data:
        first = clipped(as_written(header[data[0]]))
        raise SheetError(
            f'The first row has no column names: column {data[0] + 1} starts with "{first}".',
            "Put a row with the name of each column above the data.",
            row=0,
        )


def _is_data(cell: Cell) -> bool:
    """A column may be called 2026; none is called 186.40, 2026-11-30 or 902-555-0101."""
    if isinstance(cell, str):
        return bool(_AMOUNT_OR_PHONE.fullmatch(cell.strip()))
    if isinstance(cell, Decimal):
        return cell != cell.to_integral_value() or abs(cell) >= 1_000_000
    return cell is not None


def _checked_row(row: Sequence[Cell], width: int, number: int, header: Sequence[Cell]) -> tuple[Cell, ...]:
    last = _last_filled(row)
    if last >= width:
        raise SheetError(
            f"Row {number} has {count(last + 1, 'cell')}, but there are only {count(width, 'column name')}.",
            "A value with a separator in it needs double quotes around it, or a column name is missing.",
            row=number,
        )
    for position, cell in enumerate(row):
        if isinstance(cell, str) and len(cell) > MAX_CELL_CHARACTERS:
            name = clipped(as_written(header[position])) or f"number {position + 1}"
            raise SheetError(
                f'Row {number}, column "{name}" holds {len(cell):,} characters; a cell holds at most '
                f"{MAX_CELL_CHARACTERS:,}.",
                "Look for a double quote that is opened and never closed.",
                row=number,
                column=name,
            )
    return (*row[:width], *(None,) * (width - len(row)))


def _column_names(header: Sequence[Cell], rows: Sequence[tuple[Cell, ...]]) -> list[str]:
    names: list[str] = []
    seen: dict[str, int] = {}
    for position, cell in enumerate(header):
        name = " ".join(as_written(cell).split()) if not is_blank(cell) else ""
        if not name:
            at = next((n for n, row in enumerate(rows, 1) if not is_blank(row[position])), None)
            if at is not None:
                raise SheetError(
                    f"Column {position + 1} has no name, but row {at} has a value in it.",
                    "Give every column a name in the first row.",
                    row=at,
                )
        elif (key := column_key(name)) in seen:
            raise SheetError(
                f'Columns {seen[key] + 1} and {position + 1} are both called "{clipped(name)}".',
                "Give each column a name of its own.",
                column=name,
            )
        elif "{" in name or "}" in name:
            raise SheetError(
                f'Column {position + 1} is called "{clipped(name)}"; curly brackets mark a field in the wording.',
                "Rename the column without them.",
                column=name,
            )
        else:
            seen[key] = position
        names.append(name)
    return names
