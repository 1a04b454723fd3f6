"""CSV and TSV by RFC 4180: quoted fields, either line end; comma, semicolon, tab or bar, whichever makes a table."""

import csv
import io
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.sheets.quotes import in_double_quotes
from gentle_ledger.core.sheets.runs import MAY_TEAR, RowLook, cell_look, plain_look, row_look

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


@dataclass(frozen=True, slots=True)
class Delimited:
    """The lines of a text file, every cell text as it stood ("" is None).

    `looks` says how each of them looks, where cells may be parted by their commas; None where none can be.
    """

    lines: Iterable[list[str | None]]
    looks: list[RowLook] | None = None


def read_delimited(text: str) -> Delimited:
    """The lines of a text file. Raises SheetError for a quote that is never closed."""
    csv.field_size_limit(MAX_CELL_CHARACTERS * 8)
    text = in_double_quotes(_without_blank_end(text), _SEPARATORS)
    separator, _ = separator_of(text)
    if separator != "," or not MAY_TEAR.search(text):
        return Delimited(cells for cells, _ in _records(text, separator))
    raws: list[str] = []
    lines: list[list[str | None]] = []
    for cells, raw in _records(text, separator):
        lines.append(cells)
        raws.append(raw if '"' in raw else "")
    looks = [
        row_look(tuple(map(cell_look, row)))
        for row in csv.reader(io.StringIO(plain_look(text), newline=""), strict=True)
    ]
    for line, raw in enumerate(raws):
        if raw and looks[line].runs:
            looks[line] = looks[line].without_quoted(lines[line], raw)
    return Delimited(lines, looks)


def _records(text: str, separator: str) -> Iterator[tuple[list[str | None], str]]:
    """Each record of the file, and how it stands in it: "" in a file without a quote."""
    raw: list[str] = []
    # How a record stands is asked only where there are quotes.
    source = _noted(text, raw) if '"' in text else io.StringIO(text, newline="")
    reader = csv.reader(source, delimiter=separator, strict=True)
    while True:
        raw.clear()
        try:
            row = next(reader)
        except StopIteration:
            return
        except csv.Error as fault:
            raise SheetError(
                f"Line {reader.line_num} of the file cannot be read: {fault}.",
                "Look for a double quote that is opened and never closed.",
            ) from fault
        yield [cell or None for cell in row], raw[0] if len(raw) == 1 else "".join(raw)


def _noted(text: str, raw: list[str]) -> Iterator[str]:
    for line in io.StringIO(text, newline=""):
        raw.append(line)
        yield line
