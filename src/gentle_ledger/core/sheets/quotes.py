"""Cells that a program put into other quotes than the double ones of RFC 4180: 'Ada','12,50' or “Ada”,“12,50”."""

import re
from collections.abc import Sequence

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.errors import SheetError

_PAIRS = ("''", "’’", "‘’", "“”", "””", "„“", "„”", "«»", "»«", "``", "´´", "`´")
_LOOK_AT = 200
_LONGEST_START = 65_536


def in_double_quotes(text: str, separators: Sequence[str]) -> str:
    """A text file with double quotes in place of others: in all of it where most of its lines have cells in these and
    one has all of them so, and else in the lines that have all of their cells so.

    A lone apostrophe in front of a cell, or around a nickname, is none of them. Raises SheetError for a quote that is
    opened and never closed.
    """
    lines = [line.strip() for line in text[:_LONGEST_START].splitlines()[:_LOOK_AT] if line.strip()]
    for pair in _PAIRS:
        if text.startswith(pair[0]) or f"\n{pair[0]}" in text:
            for separator in separators:
                look = _Look(separator, *pair)
                if 2 * sum(map(look.some, lines)) > len(lines) and any(map(look.whole, lines)):
                    return _converted(text, separator, *pair)
                text = "".join(
                    _converted(line, separator, *pair) if look.whole(line.strip()) else line
                    for line in text.splitlines(keepends=True)
                )
    return text


class _Look:
    """How lines stand in quotes."""

    def __init__(self, separator: str, opened: str, closed: str) -> None:
        o, c, s = map(re.escape, (opened, closed, separator))
        self._opened, self._closed = opened, closed
        self._between = re.compile(rf"{c} *{s} *{o}")
        self._apart = re.compile(rf"{s} *{o}|{c} *{s}")

    def some(self, line: str) -> bool:
        """Whether a cell of a line may stand in them."""
        return line[0] == self._opened or line[-1] == self._closed or self._between.search(line) is not None

    def whole(self, line: str) -> bool:
        """Whether all cells of a line do, and there are several."""
        if line[:1] != self._opened or line[-1:] != self._closed:
            return False
        cells = self._between.split(line[1:-1])
        return len(cells) > 1 and not any(self._apart.search(cell) for cell in cells)


def _converted(text: str, separator: str, opened: str, closed: str) -> str:
    o, c, s = map(re.escape, (opened, closed, separator))
    # What stands between an opening quote and the first closing one at the end of a cell; the end of the file closes
    # none, and is taken in, so that a file of open quotes is not searched anew for each of them.
    end = rf"{c} *(?={s}|[\r\n]|\Z)"
    cell = re.compile(rf"(^|{s}) *{o}((?:(?!{end}).)*)({end})?", re.MULTILINE | re.DOTALL)
    opens_again = re.compile(rf"(?:{s}|[\r\n]) *{o}")

    def convert(match: re.Match[str]) -> str:
        inside = match[2]
        if not match[3] or opens_again.search(inside):
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
