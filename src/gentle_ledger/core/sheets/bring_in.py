"""Bytes of a spreadsheet into a Sheet: which format it is, what the name promised, and the bounds."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import islice
from pathlib import PurePath

from gentle_ledger.core.errors import SheetError
from gentle_ledger.core.sheets.delimited import decode, read_delimited
from gentle_ledger.core.sheets.header import Reading, read_grid
from gentle_ledger.core.sheets.model import MAX_BYTES, Cell, Sheet, as_written
from gentle_ledger.core.sheets.old_workbook import is_old_workbook, open_old_workbook, rows_of_old
from gentle_ledger.core.sheets.workbook import is_zip, read_workbook
from gentle_ledger.core.words import clipped, listed

TEXT_NAMES = frozenset({".csv", ".tsv", ".txt", ".tab"})
ZIPPED_NAMES = frozenset({".xlsx", ".xlsm", ".ods"})
OLD_NAMES = frozenset({".xls"})
KINDS = "CSV, TSV, XLSX, XLS or ODS"


@dataclass(frozen=True, slots=True)
class BroughtIn:
    """A sheet with where it came from; `worksheets` is empty for a text file."""

    sheet: Sheet
    reading: Reading
    worksheets: tuple[str, ...] = ()
    worksheet: str | None = None


@dataclass(frozen=True, slots=True)
class Glance:
    """The first lines of a file as they stand, to choose the worksheet and the header row by."""

    worksheets: tuple[str, ...]
    worksheet: str | None
    lines: tuple[tuple[str, ...], ...]


class Part(StrEnum):
    """What a line of a file is taken for."""

    ABOVE = "above the names"
    NAMES = "names"
    ROW = "row"
    BLANK = "blank"
    TOTALS = "totals"


def parts_of(lines: Sequence[Sequence[str]], brought: BroughtIn) -> list[Part]:
    """What each of the first lines of a file is taken for; totals only when all lines of the file are there."""
    reading = brought.reading
    parts = [
        Part.ABOVE
        if number < reading.header
        else Part.NAMES
        if number == reading.header
        else Part.ROW
        if any(cell.strip() for cell in line)
        else Part.BLANK
        for number, line in enumerate(lines, 1)
    ]
    rows = [place for place, part in enumerate(parts) if part is Part.ROW]
    for place in rows[len(brought.sheet.rows) :]:
        parts[place] = Part.TOTALS
    return parts


def bring_in(data: bytes, file_name: str, worksheet: str | None = None, header: int | None = None) -> BroughtIn:
    """Reads a whole file, or raises SheetError and nothing is kept.

    Args:
        data: the file's bytes, at most `MAX_BYTES`.
        file_name: its name; the ending says what the bytes should be, and they are checked against it.
        worksheet: which worksheet of a workbook; the first when None.
        header: the line with the column names, 1 for the first line of the file; recognised when None.
    """
    names, chosen, grid = _grid(data, file_name, worksheet)
    sheet, reading = read_grid(grid, header)
    return BroughtIn(sheet, reading, names, chosen)


def glance(data: bytes, file_name: str, worksheet: str | None = None, lines: int = 15) -> Glance:
    """The first lines of a file. Raises SheetError for a file that cannot be opened at all."""
    names, chosen, grid = _grid(data, file_name, worksheet)
    return Glance(names, chosen, tuple(tuple(as_written(cell) for cell in row) for row in islice(grid, lines)))


def _shown(file_name: str) -> str:
    return clipped(PurePath(file_name).name or "the file")


def refuse_by_size(data: bytes, file_name: str) -> None:
    """Raises SheetError for a file with nothing in it, or with more than can be read."""
    if not data.strip():
        raise SheetError(f'"{_shown(file_name)}" is empty.', "Choose the file with the rows in it.")
    if len(data) > MAX_BYTES:
        raise SheetError(
            f'"{_shown(file_name)}" has {len(data) / 1024 / 1024:,.0f} MB; at most {MAX_BYTES // 1024 // 1024} MB can '
            "be read.",
            "Leave out columns that the texts do not need, or split the sheet.",
        )


def _grid(
    data: bytes, file_name: str, worksheet: str | None
) -> tuple[tuple[str, ...], str | None, Iterable[Sequence[Cell]]]:
    """The worksheets' names, the one that is read, and its lines of cells."""
    ending = PurePath(file_name).suffix.lower()
    shown = _shown(file_name)
    refuse_by_size(data, file_name)
    if ending not in TEXT_NAMES | ZIPPED_NAMES | OLD_NAMES:
        raise SheetError(f'"{shown}" is not a kind of sheet that can be read.', f"Bring in a {KINDS} file.")
    if ending in TEXT_NAMES:
        _refuse_other_than_text(data, shown)
        return (), None, read_delimited(decode(data))
    if is_old_workbook(data) and ending in OLD_NAMES:
        book = open_old_workbook(data)
        names = tuple(book.sheet_names())
        chosen = _chosen(names, worksheet)
        return names, chosen, rows_of_old(book, chosen)
    # Some programs write the new format under the old ending.
    if not is_zip(data):
        kept = "an older or protected workbook" if is_old_workbook(data) else "no workbook inside"
        raise SheetError(
            f'"{shown}" is named as an {ending[1:].upper()} workbook, but it is {kept}.',
            "Open it in the spreadsheet program and save it as XLSX without a password.",
        )
    found, chosen_name, rows = read_workbook(data, worksheet)
    return tuple(found), chosen_name, rows


def _chosen(names: tuple[str, ...], worksheet: str | None) -> str:
    chosen = worksheet or names[0]
    if chosen not in names:
        raise SheetError(
            f'The workbook has no worksheet "{clipped(chosen)}".', f"It has {listed(names)}: choose one of these."
        )
    return chosen


def _refuse_other_than_text(data: bytes, shown: str) -> None:
    if is_zip(data) or is_old_workbook(data):
        raise SheetError(
            f'"{shown}" is named as a text file, but it is a workbook inside.',
            "Give it the ending .xlsx or .xls and try again.",
        )
    if data[:5] == b"%PDF-" or data.lstrip()[:15].lower().startswith((b"<!doctype html", b"<html")):
        raise SheetError(
            f'"{shown}" is named as a text file, but it is a printed page inside.',
            "Save the sheet itself as CSV or XLSX and bring that in.",
        )
