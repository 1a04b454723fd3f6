"""A row's cells as one line of JSON, types kept."""

import json
from collections.abc import Callable, Sequence
from datetime import date, datetime
from decimal import Decimal
from typing import Any, cast

from gentle_ledger.core.cells.cell import Cell

_READERS: dict[str, Callable[[str], Cell]] = {
    "n": Decimal,
    "t": datetime.fromisoformat,
    "d": date.fromisoformat,
}


def _out(cell: Cell) -> Any:
    if isinstance(cell, Decimal):
        return {"n": str(cell)}
    if isinstance(cell, datetime):
        return {"t": cell.isoformat()}
    if isinstance(cell, date):
        return {"d": cell.isoformat()}
    return cell


def _in(value: Any) -> Cell:
    if isinstance(value, dict):
        ((kind, text),) = value.items()
        return _READERS[kind](text)
    return cast("Cell", value)


_encode = json.JSONEncoder(ensure_ascii=False, separators=(",", ":")).encode
_AS_THEY_ARE = frozenset({str, bool, type(None)})


def cells_to_json(cells: Sequence[Cell]) -> str:
    """The cells as a line of JSON."""
    plain = _AS_THEY_ARE.issuperset(map(type, cells))
    return _encode(cells if plain else [_out(cell) for cell in cells])


def cells_from_json(text: str, texts: dict[str, str] | None = None) -> tuple[Cell, ...]:
    """The cells of a line of JSON, each of the type it had.

    `texts` are those of other rows, and get those of this one: what stands in many rows is kept in memory once.
    """
    found: list[Any] = json.loads(text)
    if not _AS_THEY_ARE.issuperset(map(type, found)):
        found = [_in(value) for value in found]
    if texts is not None:
        found = [texts.setdefault(cell, cell) if type(cell) is str else cell for cell in found]
    return tuple(found)
