"""The marked sheet: the original columns as they were, then what became of each row; as CSV and XLSX."""

import csv
import io
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from itertools import chain

import xlsxwriter

from gentle_ledger.core.cells.cell import Cell, as_written, column_key

MARK_COLUMNS = ("Mark", "Time", "Reason", "Reference", "Parts", "Text")
_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")
_UNSEEN = "".join(
    c
    for c in map(chr, range(0x10000))
    if c not in "\t\r\n" and (c.isspace() or unicodedata.category(c) in {"Cc", "Cf"})
)
"""Blanks, controls, and marks without a shape such as a zero width space or a byte order mark."""


@dataclass(frozen=True, slots=True)
class MarkedRow:
    """One row with its mark; `at` is None for a row that was never marked by sending."""

    cells: Sequence[Cell]
    mark: str
    at: datetime | None
    reason: str
    reference: str
    parts: int | None
    text: str

    def tail(self) -> tuple[str, str, str, str, int | None, str]:
        """The cells of MARK_COLUMNS; the time as ISO 8601 with its offset."""
        when = self.at.astimezone().isoformat(timespec="seconds") if self.at else ""
        return self.mark, when, self.reason, self.reference, self.parts, self.text


def safe_for_spreadsheet(text: str) -> str:
    """A cell that a spreadsheet would take for a formula gets an apostrophe in front; `as_it_was` takes it off again.

    OWASP, "CSV Injection": cells that begin with =, +, -, @, tab or a line end (from memory; the full-width forms are
    taken the same way by some programs). What cannot be seen in front of them does not hide them: some programs cut it
    off when they read the cell. Numbers such as -12.50 and +19025550112 are left alone: they compute nothing.
    """
    return f"'{text}" if _computes(text) else _told_apart(text)


def _computes(text: str) -> bool:
    return text.lstrip(_UNSEEN).startswith(_FORMULA_STARTS) and not _is_plain_number(text)


def _told_apart(text: str) -> str:
    """A cell that has such an apostrophe of its own gets another one, so that what was written is read back."""
    return f"'{text}" if as_it_was(text) != text else text


def as_it_was(text: str) -> str:
    """What a cell was before `safe_for_spreadsheet` protected it: '-5 days is -5 days, and 'tis and '12.50 stay."""
    return text[1:] if text[:1] == "'" and _computes(text.lstrip("'")) else text


def csv_of(rows: Iterable[Iterable[object]]) -> str:
    """RFC 4180: commas, CRLF, quotes where needed. Text is made safe for a spreadsheet, None is blank."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    for row in rows:
        writer.writerow([safe_for_spreadsheet(cell) if isinstance(cell, str) else cell for cell in row])
    return out.getvalue()


def _is_plain_number(text: str) -> bool:
    body = text[1:] if text[0] in "+-" else text
    return body.replace(".", "", 1).isdecimal() and body.isascii()


def header(columns: Sequence[str]) -> list[str]:
    """The column names of the marked sheet; a mark column that the sheet already has gets a number."""
    taken = {column_key(column) for column in columns}
    names = list(columns)
    for name in MARK_COLUMNS:
        free, n = name, 2
        while column_key(free) in taken:
            free, n = f"{name} {n}", n + 1
        taken.add(column_key(free))
        names.append(free)
    return names


def to_csv(columns: Sequence[str], rows: Iterable[MarkedRow]) -> bytes:
    """CSV in UTF-8 with a BOM, by which spreadsheets know it."""
    lines = ((*(cell if cell is None else as_written(cell) for cell in row.cells), *row.tail()) for row in rows)
    return csv_of(chain([header(columns)], lines)).encode("utf-8-sig")


def to_xlsx(columns: Sequence[str], rows: Iterable[MarkedRow]) -> bytes:
    """XLSX with the types kept: text cells are written as text, so that no formula and no link can arise from them."""
    out = io.BytesIO()
    options = {
        "constant_memory": True,
        "strings_to_urls": False,
        "strings_to_formulas": False,
        "strings_to_numbers": False,
    }
    with xlsxwriter.Workbook(out, options) as book:
        page = book.add_worksheet("Marked sheet")
        bold = book.add_format({"bold": True})
        day = book.add_format({"num_format": "yyyy-mm-dd"})
        # An amount keeps the decimals that it was written with: 186.40 is not shown as 186.4.
        written = {n: book.add_format({"num_format": f"0.{'0' * n}"}) for n in range(1, 7)}
        moment = book.add_format({"num_format": "yyyy-mm-dd hh:mm"})
        for i, name in enumerate(header(columns)):
            page.write_string(0, i, _told_apart(name), bold)
        for r, row in enumerate(rows, 1):
            for c, cell in enumerate((*row.cells, *row.tail())):
                if cell is None:
                    continue
                if isinstance(cell, bool):
                    page.write_boolean(r, c, cell)
                elif isinstance(cell, (Decimal, int)):
                    # The format itself keeps 15 digits of a number; what has more is kept whole as text.
                    if len(Decimal(cell).as_tuple().digits) <= 15:
                        page.write_number(r, c, cell, written.get(-int(Decimal(cell).as_tuple().exponent)))
                    else:
                        page.write_string(r, c, as_written(Decimal(cell)))
                elif isinstance(cell, datetime):
                    page.write_datetime(r, c, cell.replace(tzinfo=None), moment)
                elif isinstance(cell, date):
                    page.write_datetime(r, c, datetime(cell.year, cell.month, cell.day), day)  # noqa: DTZ001 - a day has no zone
                else:
                    page.write_string(r, c, _told_apart(cell))
        page.freeze_panes(1, 0)
    return out.getvalue()
