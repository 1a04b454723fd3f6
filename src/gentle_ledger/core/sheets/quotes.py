"""Cells that a program put into other quotes than the double ones of RFC 4180: 'Ada','12,50' or “Ada”,“12,50”."""

import re
from collections.abc import Sequence

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.errors import SheetError

_PAIRS = ("''", "’’", "‘’", "“”", "””", "„“", "„”", "«»", "»«", "``", "´´", "`´")
_LOOK_AT = 200
_LONGEST_START = 65_536


def in_double_quotes(text: str, separators: Sequence[str]) -> str:
    """A text file with double quotes in place of others, where a line has all its cells in these and most have some.

    A lone apostrophe in front of a cell, or around a nickname, is none of them. Raises SheetError for a quote that is
    opened and never closed.
    """
    lines = [line.strip() for line in text[:_LONGEST_START].splitlines()[:_LOOK_AT] if line.strip()]
    for pair in _PAIRS:
        if any(line[0] == pair[0] for line in lines):
            for separator in separators:
                if _are_quoted(lines, separator, *pair):
                    return _converted(text, separator, *pair)
    return text


def _are_quoted(lines: Sequence[str], separator: str, opened: str, closed: str) -> bool:
    between = re.compile(rf"{re.escape(closed)} *{re.escape(separator)} *{re.escape(opened)}")
    apart = re.compile(rf"{re.escape(separator)} *{re.escape(opened)}|{re.escape(closed)} *{re.escape(separator)}")

    def whole(line: str) -> bool:
        cells = between.split(line[1:-1]) if line[0] == opened and line[-1] == closed else []
        return len(cells) > 1 and not any(apart.search(cell) for cell in cells)

    some = sum(line[0] == opened or line[-1] == closed or between.search(line) is not None for line in lines)
    return 2 * some > len(lines) and any(map(whole, lines))


def _converted(text: str, separator: str, opened: str, closed: str) -> str:
    o, c, s = map(re.escape, (opened, closed, separator))
    # What stands between an opening quote and the first closing one at the end of a cell.
    cell = re.compile(
        rf"(^|{s}) *{o}((?:(?!{c} *(?:{s}|[\r\n]|\Z)).)*){c} *(?={s}|[\r\n]|\Z)", re.MULTILINE | re.DOTALL
    )
    opens_again = re.compile(rf"(?:{s}|[\r\n]) *{o}")

    def convert(match: re.Match[str]) -> str:
        inside = match[2]
        if opens_again.search(inside):
            raise SheetError(
                f"Line {text.count(chr(10), 0, match.start(2)) + 1} of the file cannot be read: a quote ({opened}) is "
                "opened and not closed.",
                f"Look for a cell that begins with {opened} and does not end with {closed}.",
            )
        if opened == closed:
            inside = inside.replace(2 * opened, opened).replace(f"\\{opened}", opened)
        inside = inside.replace('"', '""')
        return f'{match[1]}"{inside}"'

    return cell.sub(convert, text)


def quotes_of(names: Sequence[Cell]) -> str | None:
    """The pair of quotes that all names of a workbook's columns stand in, as in one that was made of such a text file;
    None where they do not.
    """
    filled = [name for name in names if isinstance(name, str) and name.strip()]
    return next((p for p in _PAIRS if len(filled) > 1 and all(_stands_in(name, p) for name in filled)), None)


def without_quotes(row: Sequence[Cell], pair: str) -> Sequence[Cell]:
    """A row without those quotes."""
    return [cell.strip()[1:-1] or None if isinstance(cell, str) and _stands_in(cell, pair) else cell for cell in row]


def _stands_in(cell: str, pair: str) -> bool:
    text = cell.strip()
    return len(text) > 1 and text[0] == pair[0] and text[-1] == pair[1]
