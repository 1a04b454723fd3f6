"""Which column has the numbers that texts go to, by its name and its cells; where that is not plain, it is asked."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import Cell, as_written
from gentle_ledger.core.cells.headings import MOBILE, NOT_FIRST, NOT_THEIRS, PHONE, heading_words
from gentle_ledger.core.cells.phones import tidy_number

_PHONE = re.compile(r"[+(]?[\d][\d\s().\-/\u00a0\u2010-\u2015]{5,}\d")
_MOST = 0.8
_LOOK_AT = 40
_SECOND = re.compile(r"(?<!\d)(?:[2-9]|1\d)(?!\d)")
"""Mobile 2 is the number for when the first one fails."""
_FOR_MOBILE, _FOR_PHONE, _FOR_NOTHING = 3.0, 1.0, 0.0
_AGAINST_FIRST, _AGAINST_THEIRS = 2.5, 10.0
_PLAINLY = 1.0
"""So much more than for any other column has to speak for one, or it is asked."""


@dataclass(frozen=True, slots=True)
class NumberColumns:
    """The columns of a sheet with phone numbers in them, by position.

    Attributes:
        chosen: that which texts go to, or would; None where no column has numbers.
        others: those that are passed over.
        rivals: those that may be meant as well as the chosen one; none where it is plain.
        doubtful: whether it is a question at all: there are rivals, or all speaks against the chosen one.
    """

    chosen: int | None = None
    others: tuple[int, ...] = ()
    rivals: tuple[int, ...] = ()
    doubtful: bool = False


def number_columns(names: Sequence[str], samples: Sequence[Sequence[Cell]], region: str) -> NumberColumns:
    """Which columns have numbers; `samples` are the first filled cells of each."""
    found = {i: _weight(name) for i, name in enumerate(names) if _has_numbers(name, samples[i], region)}
    blank = [i for i, name in enumerate(names) if not samples[i] and _weight(name) >= _FOR_MOBILE]
    if not found:
        return NumberColumns(blank[0]) if blank else NumberColumns()
    chosen = max(found, key=lambda i: (found[i], _share(samples[i]), -i))
    hardly = found[chosen] < -_AGAINST_FIRST
    near = [i for i in found if i != chosen and (hardly or found[chosen] - found[i] < _PLAINLY)]
    near = [i for i in near if samples[i] != samples[chosen]]
    if found[chosen] < _FOR_MOBILE:
        # A blank column that is called mobile is meant to be filled, not to be passed over for another one.
        near += blank
    others = tuple(sorted((found.keys() | set(near)) - {chosen}))
    return NumberColumns(chosen, others, tuple(sorted(near)), bool(near) or hardly)


def _weight(name: str) -> float:
    """How much a column's name speaks for its numbers being those that texts go to."""
    words = set(heading_words(name))
    found = _FOR_MOBILE if words & MOBILE else _FOR_PHONE if words & PHONE else _FOR_NOTHING
    if words & NOT_THEIRS:
        return found - _AGAINST_THEIRS
    return found - _AGAINST_FIRST if words & NOT_FIRST or (found and _SECOND.search(name)) else found


def _shaped(cells: Sequence[Cell]) -> list[Cell]:
    return [cell for cell in cells if _PHONE.search(as_written(cell)) and not _is_date_or_link(cell)]


def _share(cells: Sequence[Cell]) -> float:
    return len(_shaped(cells)) / len(cells) if cells else 0.0


def _has_numbers(name: str, cells: Sequence[Cell], region: str) -> bool:
    """Whether a column has phone numbers: by its name and some of its cells, or by nearly all of them."""
    words = set(heading_words(name))
    share = _share(cells)
    if (words & MOBILE and share >= 0.3) or (words & PHONE and share >= 0.5):
        return True
    few = _shaped(cells)[:_LOOK_AT]
    reachable = sum(1 for cell in few if tidy_number(cell, region).e164)
    return share >= _MOST and reachable >= _MOST * len(few)


def _is_date_or_link(cell: Cell) -> bool:
    written = as_written(cell).strip()
    return written.startswith(("http://", "https://")) or bool(re.match(r"\d{4}-\d\d-\d\d", written))
