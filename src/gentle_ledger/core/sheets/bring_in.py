"""Bytes of a spreadsheet into a Sheet: which format it is, what the name promised, and the bounds."""

from collections.abc import Container, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import islice
from pathlib import PurePath

from gentle_ledger.core.cells.cell import Cell, as_written
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.sheets.characters import decode, is_text
from gentle_ledger.core.sheets.delimited import read_delimited
from gentle_ledger.core.sheets.header import Reading, read_grid, with_table
from gentle_ledger.core.sheets.model import MAX_BYTES, Sheet
from gentle_ledger.core.sheets.old_workbook import (
    first_of_old,
    hidden_in_old,
    is_locked,
    is_old_workbook,
    open_old_workbook,
    rows_of_old,
)
from gentle_ledger.core.sheets.page import has_table, read_page
from gentle_ledger.core.sheets.workbook import is_zip, read_workbook

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
    """The first lines of a file as they stand, to choose the worksheet and the header row by.

    `characters` has the ways in which its characters can be read, likeliest first, each with a word that shows it; none
    where the file tells.
    """

    worksheets: tuple[str, ...]
    worksheet: str | None
    lines: tuple[tuple[str, ...], ...]
    characters: tuple[tuple[str, str], ...] = ()


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


def bring_in(
    data: bytes,
    file_name: str,
    worksheet: str | None = None,
    header: int | None = None,
    currency: str = "CAD",
    characters: str | None = None,
) -> BroughtIn:
    """Reads a whole file, or raises SheetError and nothing is kept.

    Args:
        data: the file's bytes, at most `MAX_BYTES`.
        file_name: its name; the ending says what the bytes should be, and they are checked against it.
        worksheet: which worksheet of a workbook; the first when None.
        header: the line with the column names, 1 for the first line of the file; recognised when None.
        currency: the round's: amounts that a workbook shows in another one become text, and are held as such.
        characters: how the characters of a text file are to be read, where it does not tell by itself.
    """
    found = _grid(data, file_name, worksheet, currency, characters)
    sheet, reading = read_grid(found.lines, header, found.hidden)
    return BroughtIn(sheet, reading, found.worksheets, found.worksheet)


def glance(
    data: bytes,
    file_name: str,
    worksheet: str | None = None,
    lines: int = 15,
    currency: str = "CAD",
    characters: str | None = None,
) -> Glance:
    """The first lines of a file. Raises SheetError for a file that cannot be opened at all.

    The characters of a text file that does not tell how they are to be read are shown in the likeliest way.
    """
    found = _grid(data, file_name, worksheet, currency, characters, guess=True)
    shown = tuple(tuple(as_written(cell) for cell in row) for row in islice(found.lines, lines))
    return Glance(found.worksheets, found.worksheet, shown, found.readings)


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


@dataclass(frozen=True, slots=True)
class _Grid:
    """The lines of cells of a file, with its worksheets, its hidden lines, and how its characters can be read."""

    lines: Iterable[Sequence[Cell]]
    worksheets: tuple[str, ...] = ()
    worksheet: str | None = None
    hidden: Container[int] = ()
    readings: tuple[tuple[str, str], ...] = ()


def _grid(
    data: bytes, file_name: str, worksheet: str | None, currency: str, characters: str | None, *, guess: bool = False
) -> _Grid:
    ending = PurePath(file_name).suffix.lower()
    shown = _shown(file_name)
    refuse_by_size(data, file_name)
    if ending not in TEXT_NAMES | ZIPPED_NAMES | OLD_NAMES:
        raise SheetError(f'"{shown}" is not a kind of sheet that can be read.', f"Bring in a {KINDS} file.")
    if ending in TEXT_NAMES:
        _refuse_other_than_text(data, shown)
        return _of_text(data, characters, guess=guess)
    if is_old_workbook(data):
        return _of_old(data, shown, ending, worksheet, currency)
    if is_zip(data):
        # Some programs write the new format under the old ending.
        found = read_workbook(data, worksheet, currency)
        return _Grid(found.rows, found.names, found.chosen, found.hidden)
    if has_table(data):
        # Portals save a page with a table, or plain text, under the name of a workbook.
        return _Grid(read_page(decode(data, characters, guess=guess).text))
    if ending in OLD_NAMES and is_text(data):
        return _of_text(data, characters, guess=guess)
    raise SheetError(
        f'"{shown}" is named as an {ending[1:].upper()} workbook, but it is no workbook inside.',
        "Open it in the spreadsheet program and save it as XLSX without a password.",
    )


def _of_text(data: bytes, characters: str | None, *, guess: bool) -> _Grid:
    decoded = decode(data, characters, guess=guess)
    return _Grid(read_delimited(decoded.text), readings=decoded.readings)


def _of_old(data: bytes, shown: str, ending: str, worksheet: str | None, currency: str) -> _Grid:
    if ending not in OLD_NAMES or is_locked(data):
        raise SheetError(
            f'"{shown}" is protected by a password.'
            if is_locked(data)
            else f'"{shown}" is named as an {ending[1:].upper()} workbook, but it is an older or protected workbook.',
            "Open it in the spreadsheet program and save it as XLSX without a password.",
        )
    book = open_old_workbook(data)
    names = tuple(book.sheet_names())
    chosen = _chosen(names, worksheet or with_table(names, lambda name: first_of_old(book, name, currency)))
    return _Grid(rows_of_old(book, chosen, currency), names, chosen, hidden_in_old(book, chosen))


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
