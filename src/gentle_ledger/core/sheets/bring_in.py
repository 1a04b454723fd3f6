"""Bytes of a spreadsheet into a Sheet: which format it is, what the name promised, and the bounds."""

from dataclasses import dataclass
from pathlib import PurePath

from gentle_ledger.core.errors import SheetError
from gentle_ledger.core.sheets.delimited import decode, read_delimited
from gentle_ledger.core.sheets.header import sheet_from_grid
from gentle_ledger.core.sheets.model import MAX_BYTES, Sheet
from gentle_ledger.core.sheets.workbook import is_zip, read_workbook, worksheet_names
from gentle_ledger.core.words import clipped

TEXT_NAMES = frozenset({".csv", ".tsv", ".txt", ".tab"})
WORKBOOK_NAMES = frozenset({".xlsx", ".xlsm"})
_OLE = b"\xd0\xcf\x11\xe0"


@dataclass(frozen=True, slots=True)
class BroughtIn:
    """A sheet with where it came from; `worksheets` is empty for a text file."""

    sheet: Sheet
    worksheets: tuple[str, ...] = ()
    worksheet: str | None = None


def worksheets_of(data: bytes, file_name: str) -> tuple[str, ...]:
    """The names of a workbook's worksheets; none for a text file or for what cannot be opened."""
    if PurePath(file_name).suffix.lower() not in WORKBOOK_NAMES or not is_zip(data) or len(data) > MAX_BYTES:
        return ()
    return tuple(worksheet_names(data))


def bring_in(data: bytes, file_name: str, worksheet: str | None = None) -> BroughtIn:
    """Reads a whole file, or raises SheetError and nothing is kept.

    Args:
        data: the file's bytes, at most `MAX_BYTES`.
        file_name: its name; the ending says what the bytes should be, and they are checked against it.
        worksheet: which worksheet of a workbook; the first when None.
    """
    ending = PurePath(file_name).suffix.lower()
    shown = clipped(PurePath(file_name).name or "the file")
    if not data.strip():
        raise SheetError(f'"{shown}" is empty.', "Choose the file with the rows in it.")
    if len(data) > MAX_BYTES:
        raise SheetError(
            f'"{shown}" has {len(data) / 1024 / 1024:,.0f} MB; at most {MAX_BYTES // 1024 // 1024} MB can be read.',
            "Leave out columns that the texts do not need, or split the sheet.",
        )
    if ending not in TEXT_NAMES | WORKBOOK_NAMES:
        raise SheetError(f'"{shown}" is not a kind of sheet that can be read.', "Bring in a CSV, TSV or XLSX file.")
    if ending in WORKBOOK_NAMES:
        if not is_zip(data):
            kept = "an older or protected workbook" if data.startswith(_OLE) else "no XLSX workbook inside"
            raise SheetError(
                f'"{shown}" is named as an XLSX workbook, but it is {kept}.',
                "Open it in the spreadsheet program and save it as XLSX without a password.",
            )
        names, chosen, rows = read_workbook(data, worksheet)
        return BroughtIn(sheet_from_grid(rows), tuple(names), chosen)
    if is_zip(data) or data.startswith(_OLE):
        raise SheetError(
            f'"{shown}" is named as a text file, but it is a workbook inside.',
            "Give it the ending .xlsx and try again.",
        )
    if data[:5] == b"%PDF-" or data.lstrip()[:15].lower().startswith((b"<!doctype html", b"<html")):
        raise SheetError(
            f'"{shown}" is named as a text file, but it is a printed page inside.',
            "Save the sheet itself as CSV or XLSX and bring that in.",
        )
    return BroughtIn(sheet_from_grid(read_delimited(decode(data))))
