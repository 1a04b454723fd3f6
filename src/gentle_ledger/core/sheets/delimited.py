"""CSV and TSV by RFC 4180: quoted fields, either line end; comma, semicolon, tab or bar, whichever makes a table."""

import csv
import io
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import islice, pairwise

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS, Cell
from gentle_ledger.core.cells.errors import SheetError

_SEPARATORS = (";", "\t", "|", ",")
"""Where several make a table, the comma comes last: it parts decimals as well."""
_LOOK_AT = 200
"""Lines by which the separator is told."""
_LONGEST_START = 262_144


def separator_of(text: str) -> tuple[str, int]:
    """The separator that makes a table of the first lines, and how wide: most lines have that many cells, two or more.

    Title lines above a table have fewer cells and are outvoted by its rows. The comma when nothing parts anything.
    """
    start = text.lstrip("\r\n")[:_LONGEST_START]
    fits = {separator: _fit(start, separator) for separator in _SEPARATORS}
    found = max(_SEPARATORS, key=fits.__getitem__)
    return (found, fits[found][1]) if fits[found][1] else (",", 0)


def _fit(start: str, separator: str) -> tuple[float, int]:
    """How well a separator parts the lines: the share of them with the usual number of cells, and that number."""
    if separator not in start:
        return 0.0, 0
    widths: Counter[int] = Counter()
    try:
        rows = csv.reader(io.StringIO(start, newline=""), delimiter=separator)
        widths.update(len(row) for row in islice(rows, _LOOK_AT) if any(cell.strip() for cell in row))
    except csv.Error:
        pass
    usual, lines = max(((w, n) for w, n in widths.items() if w > 1), key=lambda found: found[::-1], default=(0, 0))
    return round(lines / max(widths.total(), 1), 1), usual


def _without_blank_end(text: str) -> str:
    """The text without the blank lines at its end: a stray format can leave millions of them."""
    filled = text.rstrip("\r\n,;|\t ")
    end = text[len(filled) :]
    return filled + end[: min((at for at in (end.find("\r"), end.find("\n")) if at >= 0), default=len(end))]


def read_delimited(text: str) -> Iterator[list[Cell]]:
    """Rows of cells, every cell text as it stood; "" becomes None.

    Raises SheetError for a double quote that is never closed, and for a row that an amount with a comma has shifted.
    """
    csv.field_size_limit(MAX_CELL_CHARACTERS * 8)
    text = _without_blank_end(text)
    separator, usual = separator_of(text)
    width = 0
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    while True:
        try:
            row = next(reader)
        except StopIteration:
            return
        except csv.Error as fault:
            raise SheetError(
                f"Line {reader.line_num} of the file cannot be read: {fault}.",
                "Look for a double quote that is opened and never closed.",
            ) from fault
        if len(row) > width > 1 and separator == "," and (pair := _parted(row)):
            raise SheetError(
                f"Line {reader.line_num} has {len(row)} cells and there are {width} names: “{pair[0]},{pair[1]}” seems "
                "to be one amount, parted by its comma.",
                "Put double quotes around amounts with a comma in them, or save the sheet as XLSX.",
            )
        # The names stand in the first line that is as wide as most.
        width = width or (len(row) if len(row) >= usual else 0)
        yield [cell or None for cell in row]


_FRONT = re.compile(r"\(?-?[^\w\s.,;]?\(?-?[1-9]\d{0,2}")
_BACK = re.compile(r"\d{3}(?:\.\d+)?\)?-?")


def _parted(row: Sequence[str]) -> tuple[str, str] | None:
    """Two cells side by side that look like the two halves of an amount such as 1,234.50; None for none."""
    for left, right in pairwise(row):
        if _FRONT.fullmatch(left.strip()) and _BACK.fullmatch(right.rstrip()):
            return left.strip(), right.strip()
    return None
