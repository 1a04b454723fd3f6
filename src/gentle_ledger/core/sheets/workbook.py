"""XLSX and ODS through python-calamine, with the bounds a hostile file needs."""

import io
import re
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from itertools import islice

from python_calamine import CalamineError, CalamineWorkbook, SheetVisibleEnum

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.sheets.cell_formats import as_decimal, time_shown
from gentle_ledger.core.sheets.faults import Details, details_of, member_of
from gentle_ledger.core.sheets.header import LOOK_AT, with_table
from gentle_ledger.core.sheets.model import MAX_COLUMNS, MAX_ROWS

MAX_UNPACKED = 1024 * 1024 * 1024
"""Bytes a workbook may unpack to: 200,000 rows of 40 columns stay well below."""
MAX_RATIO = 200
"""How many times its packed size a large member may unpack to; deflated sheets of text reach some 20 to 60."""


@dataclass(frozen=True, slots=True)
class Worksheets:
    """The worksheets of a workbook.

    Attributes:
        names: all of them.
        unseen: those that the workbook does not show.
        chosen: the one that is read.
        rows: its lines of cells.
        hidden: which of them are not shown.
    """

    names: tuple[str, ...]
    unseen: tuple[str, ...]
    chosen: str
    rows: Iterable[Sequence[Cell]]
    hidden: frozenset[int]


def is_zip(data: bytes) -> bool:
    """Whether these bytes are a ZIP archive, as XLSX and ODS workbooks are."""
    return data.startswith((b"PK\x03\x04", b"PK\x05\x06"))


def refuse_bomb(data: bytes) -> None:
    """Raises SheetError when the members claim, or are, far more than a sheet can be."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            members = archive.infolist()
    except (zipfile.BadZipFile, NotImplementedError, ValueError) as fault:
        raise _damaged() from fault
    unpacked = sum(member.file_size for member in members)
    squeezed = any(
        member.file_size > 10 * 1024 * 1024 and member.file_size > MAX_RATIO * max(member.compress_size, 1)
        for member in members
    )
    if unpacked > MAX_UNPACKED or squeezed:
        raise SheetError(
            f"The workbook would unpack to {unpacked / 1024 / 1024:,.0f} MB, far more than its rows can need.",
            "Copy the rows into a new workbook and bring that in.",
        )
    names = {member.filename for member in members}
    if not any(name.startswith("xl/") for name in names) and "content.xml" not in names:
        raise SheetError(
            "The file is a zip archive, but not a workbook.",
            "Save the sheet as XLSX, ODS or CSV in the spreadsheet program and bring that in.",
        )


_FAR = re.compile(rb'<c\b[^>]{0,200}?\br="([A-Z]{3,})(\d+)"[^>]{0,200}?(?<!/)>')
"""A cell with something in it, beyond column ZZ (the 702nd)."""
_PERHAPS_FAR = re.compile(rb'r="[A-Z]{3}')
"""What such a cell has at least; found many times faster than the cell."""


def refuse_stray_cells(data: bytes, worksheet: str) -> None:
    """Raises SheetError for a value so far to the right that the sheet cannot be meant to reach there.

    The reader lays a worksheet out as one block from its first to its last cell, so that a single such value asks for
    more memory than there is. Cells that only carry a format are no values.
    """
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        member = member_of(archive, worksheet)
        content = archive.read(member) if member else b""
    found = _FAR.search(content) if _PERHAPS_FAR.search(content) else None
    if found:
        raise SheetError(
            f"The worksheet has a value in cell {clipped((found[1] + found[2]).decode(), 20)}, far to the right; at "
            f"most {MAX_COLUMNS} columns can be read.",
            "Empty that cell, or copy the rows into a new workbook, and bring that in.",
        )


def _damaged() -> SheetError:
    return SheetError(
        "The workbook is damaged and cannot be opened.",
        "Open it in the spreadsheet program, save it again as XLSX, and bring that in.",
    )


def _cell(value: object) -> Cell:
    """A calamine value as a Cell."""
    if isinstance(value, str):
        return value or None
    if value is None or isinstance(value, (bool, datetime, date)):
        return value
    if isinstance(value, int):
        return Decimal(value)
    if isinstance(value, float):
        return as_decimal(value)
    if isinstance(value, (time, timedelta)):
        return time_shown(value)
    return str(value)


def _whole(row: Sequence[object]) -> list[Cell]:
    return [_cell(value) for value in row]


def _open(data: bytes) -> CalamineWorkbook:
    refuse_bomb(data)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
    except (CalamineError, OSError, ValueError) as fault:
        raise _damaged() from fault
    if not book.sheet_names:
        raise SheetError("The workbook has no worksheet.", "Bring in a workbook with at least one.")
    return book


def read_workbook(data: bytes, worksheet: str | None, before: str | None, currency: str) -> Worksheets:
    """Opens an XLSX or ODS workbook.

    Args:
        data: the file's bytes.
        worksheet: the name of the worksheet to read; when None, the first one that is shown and has a table.
        before: which one was read of an earlier file; read where it is there and shown.
        currency: the round's: amounts that the workbook shows in another one become text.
    """
    book = _open(data)
    names = list(book.sheet_names)
    unseen = tuple(sheet.name for sheet in book.sheets_metadata if sheet.visible != SheetVisibleEnum.Visible)
    chosen = worksheet or with_table(names, unseen, before, lambda name: _first_rows(book, name))
    if chosen not in names:
        raise SheetError(
            f'The workbook has no worksheet "{clipped(chosen)}".',
            f"It has {listed(names)}: choose one of these.",
        )
    refuse_stray_cells(data, chosen)
    try:
        sheet = book.get_sheet_by_name(chosen)
    except (CalamineError, OSError, ValueError) as fault:
        raise _damaged() from fault
    # Stray formatting can stretch a worksheet to a million rows: far past the bound we refuse before copying cells.
    if sheet.total_height > 5 * (MAX_ROWS + 1):
        raise SheetError(
            f"The worksheet has {sheet.total_height:,} rows; at most {MAX_ROWS:,} can be read.",
            "Split it into smaller sheets, one round each.",
        )
    if sheet.total_width > 20 * MAX_COLUMNS:
        raise SheetError(
            f"The worksheet has {sheet.total_width:,} columns; at most {MAX_COLUMNS} can be read.",
            "Leave out some columns.",
        )
    details = details_of(data, chosen, currency)
    first = sheet.start[1] if sheet.start else 0
    rows = (_with_details(_whole(row), r, first, details) for r, row in enumerate(sheet.iter_rows()))
    return Worksheets(tuple(names), unseen, chosen, rows, frozenset(details.hidden))


def _with_details(row: list[Cell], number: int, first: int, details: Details) -> list[Cell]:
    """A row with what its cells show; `first` is the column that its first cell stands in."""
    if details.cells:
        for place in range(len(row)):
            if (number, first + place) in details.cells:
                row[place] = details.cells[number, first + place]
    return row


def _first_rows(book: CalamineWorkbook, name: str) -> list[list[Cell]]:
    try:
        sheet = book.get_sheet_by_name(name)
    except (CalamineError, OSError, ValueError):
        return []
    return [_whole(row) for row in islice(sheet.iter_rows(), LOOK_AT)]
