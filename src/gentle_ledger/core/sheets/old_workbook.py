"""XLS, the workbooks of before 2007, through xlrd."""

from collections.abc import Iterator
from datetime import datetime

import xlrd

from gentle_ledger.core.errors import SheetError
from gentle_ledger.core.sheets.model import Cell
from gentle_ledger.core.sheets.numbers_in import as_decimal

_OLE = b"\xd0\xcf\x11\xe0"


def is_old_workbook(data: bytes) -> bool:
    return data.startswith(_OLE)


def open_old_workbook(data: bytes) -> xlrd.Book:
    """Raises SheetError when it cannot be opened; a password is said to be one."""
    try:
        return xlrd.open_workbook(file_contents=data, on_demand=True)
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


def rows_of_old(book: xlrd.Book, worksheet: str) -> Iterator[list[Cell]]:
    """The rows of one worksheet, error cells as their text."""
    sheet = book.sheet_by_name(worksheet)
    for row in range(sheet.nrows):
        yield [_cell(cell, book.datemode) for cell in sheet.row(row)]


def _cell(cell: "xlrd.sheet.Cell", datemode: int) -> Cell:
    kind, value = cell.ctype, cell.value
    if kind == xlrd.XL_CELL_NUMBER:
        return as_decimal(value)
    if kind == xlrd.XL_CELL_DATE:
        return _moment(value, datemode)
    if kind == xlrd.XL_CELL_BOOLEAN:
        return bool(value)
    if kind == xlrd.XL_CELL_ERROR:
        return str(xlrd.error_text_from_code.get(value, "#VALUE!"))
    return str(value) if value else None


def _moment(value: float, datemode: int) -> Cell:
    try:
        found: datetime = xlrd.xldate_as_datetime(value, datemode)
    except (xlrd.XLDateError, OverflowError, ValueError):
        return as_decimal(value)
    return found.date() if found.hour == found.minute == found.second == 0 else found
