"""A table of an HTML page, as portals save it under the name of a workbook."""

from html.parser import HTMLParser

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.sheets.model import MAX_COLUMNS, MAX_ROWS

_START = 65_536


def has_table(data: bytes) -> bool:
    """Whether the bytes are a page with a table in it, in any of the usual encodings."""
    start = data[:_START].replace(b"\0", b"").lower()
    return b"<table" in start and (b"<html" in start or b"<tr" in start or b"<td" in start)


def read_page(text: str) -> list[list[Cell]]:
    """The rows of the largest table of a page, as text; a cell over several columns leaves the others blank."""
    reader = _Tables()
    reader.feed(text)
    reader.close()
    return max(reader.tables, key=len, default=[])


class _Tables(HTMLParser):
    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.tables: list[list[list[Cell]]] = []
        self._open: list[list[list[Cell]]] = []
        self._cell: list[str] | None = None
        self._spans = 1

    def handle_starttag(self, tag: str, attributes: list[tuple[str, str | None]]) -> None:
        if tag == "table":
            self._end_cell()
            self._open.append([])
            self.tables.append(self._open[-1])
        elif tag == "tr" and self._open:
            self._end_cell()
            if len(self._open[-1]) <= MAX_ROWS + 100:
                self._open[-1].append([])
        elif tag in {"td", "th"} and self._open:
            self._end_cell()
            self._cell = []
            wide = dict(attributes).get("colspan") or "1"
            self._spans = min(int(wide), MAX_COLUMNS) if wide.isdecimal() else 1
        elif tag in {"br", "p", "div"} and self._cell is not None:
            self._cell.append(" ")

    def handle_endtag(self, tag: str) -> None:
        if tag in {"td", "th", "tr"}:
            self._end_cell()
        elif tag == "table" and self._open:
            self._end_cell()
            self._open.pop()

    def handle_data(self, data: str) -> None:
        if self._cell is not None:
            self._cell.append(data)

    def _end_cell(self) -> None:
        if self._cell is not None and self._open and self._open[-1]:
            text = " ".join("".join(self._cell).split())
            self._open[-1][-1] += [text or None, *[None] * (self._spans - 1)]
        self._cell = None
