"""XLS, the workbooks of before 2007, through xlrd."""

import re
from collections.abc import Iterator
from datetime import datetime, time, timedelta
from itertools import islice

import xlrd

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.sheets.cell_formats import as_decimal, as_shown, time_shown
from gentle_ledger.core.sheets.header import LOOK_AT

_OLE = b"\xd0\xcf\x11\xe0"


def is_old_workbook(data: bytes) -> bool:
    """Whether these bytes are an XLS workbook, by their first eight (MS-CFB, 2.2; from memory)."""
    return data.startswith(_OLE)


def open_old_workbook(data: bytes) -> xlrd.Book:
    """Raises SheetError when it cannot be opened; a password is said to be one."""
    try:
        return xlrd.open_workbook(file_contents=data, on_demand=True, formatting_info=True)
    except xlrd.XLRDError as fault:
        locked = "encrypted" in str(fault).lower()
        raise SheetError(
            "The workbook is protected by a password." if locked else "The workbook is damaged and cannot be opened.",
            "Open it in the spreadsheet program, save it as XLSX without a password, and bring that in.",
        ) from fault
    except Exception as fault:  # a damaged file can make xlrd fail anywhere
        raise SheetError(
            "The workbook is damaged and cannot be opened.",
            "Open it in the spreadsheet program, save it as XLSX, and bring that in.",
        ) from fault


def rows_of_old(book: xlrd.Book, worksheet: str, currency: str) -> Iterator[list[Cell]]:
    """The rows of one worksheet as its number formats show them, error cells as their text."""
    sheet = book.sheet_by_name(worksheet)
    for row in range(sheet.nrows):
        yield [_cell(cell, book, currency) for cell in sheet.row(row)]


def first_of_old(book: xlrd.Book, worksheet: str, currency: str) -> list[list[Cell]]:
    """The first rows of one worksheet."""
    return list(islice(rows_of_old(book, worksheet, currency), LOOK_AT))


def unseen_in_old(book: xlrd.Book) -> tuple[str, ...]:
    """The worksheets that the workbook does not show."""
    return tuple(name for name in book.sheet_names() if book.sheet_by_name(name).visibility)


def is_locked(data: bytes) -> bool:
    """Whether a compound file has an encrypted workbook in it ([MS-OFFCRYPTO] 2.3.4, from memory)."""
    return "EncryptedPackage".encode("utf-16-le") in data


def hidden_in_old(book: xlrd.Book, worksheet: str) -> frozenset[int]:
    """The rows of one worksheet that are not shown."""
    rows = book.sheet_by_name(worksheet).rowinfo_map.items()
    return frozenset(row for row, info in rows if info.hidden)


def _cell(cell: "xlrd.sheet.Cell", book: xlrd.Book, currency: str) -> Cell:
    kind, value = cell.ctype, cell.value
    if kind == xlrd.XL_CELL_NUMBER:
        return as_shown(as_decimal(value), _format(cell, book), currency)
    if kind == xlrd.XL_CELL_DATE:
        return _moment(value, book.datemode, _format(cell, book))
    if kind == xlrd.XL_CELL_BOOLEAN:
        return bool(value)
    if kind == xlrd.XL_CELL_ERROR:
        return str(xlrd.error_text_from_code.get(value, "#VALUE!"))
    return str(value) if value else None


def _format(cell: "xlrd.sheet.Cell", book: xlrd.Book) -> str:
    """A cell's number format; "" where the workbook does not say."""
    if cell.xf_index is None or not 0 <= cell.xf_index < len(book.xf_list):
        return ""
    found = book.format_map.get(book.xf_list[cell.xf_index].format_key)
    return str(found.format_str) if found else ""


_ELAPSED = re.compile(r"\[[hms]+\]", re.IGNORECASE)


def _moment(value: float, datemode: int, code: str) -> Cell:
    """A day, with its time where it has one; a time of day, or hours counted on, where there is no day in it."""
    if _ELAPSED.search(code):
        return time_shown(timedelta(days=value))
    if 0 <= value < 1:
        seconds = round(value * 86_400)
        return time_shown(time(seconds // 3600 % 24, seconds // 60 % 60, seconds % 60))
    try:
        found: datetime = xlrd.xldate_as_datetime(value, datemode)
    except (xlrd.XLDateError, OverflowError, ValueError):
        return as_decimal(value)
    return found.date() if found.hour == found.minute == found.second == 0 else found
