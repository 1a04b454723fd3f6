"""Bytes of a spreadsheet into a Sheet: which format it is, what the name promised, and the bounds."""

from collections.abc import Container, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import islice
from pathlib import PurePath

from gentle_ledger.core.cells.cell import Cell, as_written
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.sheets.characters import decode, is_text
from gentle_ledger.core.sheets.delimited import read_delimited
from gentle_ledger.core.sheets.header import Reading, names_at, read_grid, with_table
from gentle_ledger.core.sheets.model import MAX_BYTES, Sheet
from gentle_ledger.core.sheets.old_workbook import (
    first_of_old,
    hidden_in_old,
    is_locked,
    is_old_workbook,
    open_old_workbook,
    rows_of_old,
    unseen_in_old,
)
from gentle_ledger.core.sheets.page import has_table, read_page
from gentle_ledger.core.sheets.torn import Commas, Torn, put_together, questions, torn_in
from gentle_ledger.core.sheets.workbook import is_zip, read_workbook

TEXT_NAMES = frozenset({".csv", ".tsv", ".txt", ".tab"})
ZIPPED_NAMES = frozenset({".xlsx", ".xlsm", ".ods"})
OLD_NAMES = frozenset({".xls"})
KINDS = "CSV, TSV, XLSX, XLS or ODS"


@dataclass(frozen=True, slots=True)
class Before:
    """What was said of an earlier file; good where this one leaves the same open.

    Attributes:
        worksheet: which worksheet was read.
        characters: how its characters were read.
        commas: by column, what its commas are where cells may be parted by them.
    """

    worksheet: str | None = None
    characters: str | None = None
    commas: Mapping[str, Commas] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Choice:
    """What was chosen for a file, or said of it.

    Attributes:
        worksheet: which worksheet of a workbook; the first shown one with a table when None.
        header: the line with the column names, 1 for the first line of the file; recognised when None.
        characters: how the characters of a text file are to be read, where it does not tell by itself.
        commas: by column, what the commas of a text file are where cells may be parted by them.
        before: what was said of an earlier file.
    """

    worksheet: str | None = None
    header: int | None = None
    characters: str | None = None
    commas: Mapping[str, Commas] = field(default_factory=dict)
    before: Before = Before()

    def of_commas(self, torn: Torn) -> Commas | None:
        """The answer to a question about commas; None where nobody has said."""
        found = self.commas.get(torn.column)
        return found or (self.before.commas.get(torn.column) if torn.layout else None)


AS_IT_COMES = Choice()
"""Nothing was said of the file."""


@dataclass(frozen=True, slots=True)
class BroughtIn:
    """A sheet with where it came from; `worksheets` is empty for a text file, `unseen` are those that are hidden.

    `commas` has the answers about its commas that are good for the next file that is made like it.
    """

    sheet: Sheet
    reading: Reading
    worksheets: tuple[str, ...] = ()
    worksheet: str | None = None
    commas: Mapping[str, Commas] = field(default_factory=dict)
    unseen: tuple[str, ...] = ()

    @property
    def said_of_worksheets(self) -> str:
        """Which of several worksheets was read, as a sentence; "" where there is one."""
        others = [f"{name} (hidden)" if name in self.unseen else name for name in self.worksheets]
        others = [shown for shown, name in zip(others, self.worksheets, strict=True) if name != self.worksheet]
        return f"Worksheet {self.worksheet} is read; the workbook has {listed(others)} as well." if others else ""


@dataclass(frozen=True, slots=True)
class Glance:
    """The first lines of a file as they stand, to choose the worksheet and the header row by.

    `characters` has the ways in which its characters can be read, likeliest first, each with a word that shows it; none
    where the file tells. `torn` has what is to be asked about its commas.
    """

    worksheets: tuple[str, ...]
    worksheet: str | None
    lines: tuple[tuple[str, ...], ...]
    characters: tuple[tuple[str, str], ...] = ()
    torn: tuple[Torn, ...] = ()
    unseen: tuple[str, ...] = ()


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


def bring_in(data: bytes, file_name: str, choice: Choice = AS_IT_COMES, currency: str = "CAD") -> BroughtIn:
    """Reads a whole file, or raises SheetError and nothing is kept; it does for what is a question and has no answer.

    Args:
        data: the file's bytes, at most `MAX_BYTES`.
        file_name: its name; the ending says what the bytes should be, and they are checked against it.
        choice: what was chosen for it.
        currency: the round's: amounts that a workbook shows in another one become text, and are held as such.
    """
    found = _grid(data, file_name, choice, currency)
    for torn in found.torn:
        if choice.of_commas(torn) is None:
            raise SheetError(
                torn.ask,
                "Say which it is; or put double quotes around cells with a comma, or save it as XLSX.",
                row=torn.row,
                column=torn.column,
            )
    sheet, reading = read_grid(found.lines, choice.header, found.hidden)
    commas = {torn.column: said for torn in found.torn if torn.layout and (said := choice.of_commas(torn))}
    return BroughtIn(sheet, reading, found.worksheets, found.worksheet, commas, found.unseen)


def glance(data: bytes, file_name: str, choice: Choice = AS_IT_COMES, lines: int = 15, currency: str = "CAD") -> Glance:
    """The first lines of a file. Raises SheetError for a file that cannot be opened at all.

    The characters of a text file that does not tell how they are to be read are shown in the likeliest way.
    """
    found = _grid(data, file_name, choice, currency, guess=True)
    shown = tuple(tuple(as_written(cell) for cell in row) for row in islice(found.lines, lines))
    return Glance(found.worksheets, found.worksheet, shown, found.readings, found.torn, found.unseen)


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
    unseen: tuple[str, ...] = ()
    worksheet: str | None = None
    hidden: Container[int] = ()
    readings: tuple[tuple[str, str], ...] = ()
    torn: tuple[Torn, ...] = ()


def _grid(data: bytes, file_name: str, choice: Choice, currency: str, *, guess: bool = False) -> _Grid:
    ending = PurePath(file_name).suffix.lower()
    shown = _shown(file_name)
    refuse_by_size(data, file_name)
    if ending not in TEXT_NAMES | ZIPPED_NAMES | OLD_NAMES:
        raise SheetError(f'"{shown}" is not a kind of sheet that can be read.', f"Bring in a {KINDS} file.")
    if ending in TEXT_NAMES:
        _refuse_other_than_text(data, shown)
        return _of_text(data, choice, guess=guess)
    if is_old_workbook(data):
        return _of_old(data, shown, ending, choice, currency)
    if is_zip(data):
        # Some programs write the new format under the old ending.
        found = read_workbook(data, choice.worksheet, choice.before.worksheet, currency)
        return _Grid(found.rows, found.names, found.unseen, found.chosen, found.hidden)
    if has_table(data):
        # Portals save a page with a table, or plain text, under the name of a workbook.
        return _Grid(read_page(decode(data, choice.characters, choice.before.characters, guess=guess).text))
    if ending in OLD_NAMES and is_text(data):
        return _of_text(data, choice, guess=guess)
    raise SheetError(
        f'"{shown}" is named as an {ending[1:].upper()} workbook, but it is no workbook inside.',
        "Open it in the spreadsheet program and save it as XLSX without a password.",
    )


def _of_text(data: bytes, choice: Choice, *, guess: bool) -> _Grid:
    decoded = decode(data, choice.characters, choice.before.characters, guess=guess)
    found = read_delimited(decoded.text)
    if found.looks is None:
        return _Grid(found.lines, readings=decoded.readings)
    lines = list(found.lines)
    at = names_at(lines, choice.header)
    if not 0 <= at < len(lines):
        return _Grid(lines, readings=decoded.readings)
    names = [as_written(cell).strip() for cell in lines[at]]
    below = ((line, found.looks[line]) for line in range(at + 1, len(lines)) if any(lines[line]))
    torn = torn_in(names, below)
    asked = questions(lines, at, torn)
    answers = {each.column: said for each in asked if (said := choice.of_commas(each))}
    return _Grid(put_together(lines, at, torn, answers), readings=decoded.readings, torn=asked)


def _of_old(data: bytes, shown: str, ending: str, choice: Choice, currency: str) -> _Grid:
    if ending not in OLD_NAMES or is_locked(data):
        raise SheetError(
            f'"{shown}" is protected by a password.'
            if is_locked(data)
            else f'"{shown}" is named as an {ending[1:].upper()} workbook, but it is an older or protected workbook.',
            "Open it in the spreadsheet program and save it as XLSX without a password.",
        )
    book = open_old_workbook(data)
    names = tuple(book.sheet_names())
    unseen = unseen_in_old(book)
    usual = with_table(names, unseen, choice.before.worksheet, lambda name: first_of_old(book, name, currency))
    chosen = _chosen(names, choice.worksheet or usual)
    return _Grid(rows_of_old(book, chosen, currency), names, unseen, chosen, hidden_in_old(book, chosen))


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
