"""Days in a text: which they are, and whether something is due on them."""

import re
from collections.abc import Callable, Iterator, Sequence
from datetime import date
from functools import lru_cache
from itertools import pairwise

from babel import Locale

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.formulas.values import day_of
from gentle_ledger.core.wording.bound import BoundWording
from gentle_ledger.core.wording.parse import Field

_DUE = re.compile(r"\b(due|pay|payable|deadline|until|by|before|no later than)\b[ :]*$", re.IGNORECASE)
"""English words in front of a day, or in its column's name, that say that something is due (common practice)."""
_DUE_COLUMN = re.compile(r"\b(due|pay|payable|deadline|until)\b", re.IGNORECASE)


def first_days(
    view: RoundView, rows: Sequence[int], odd: Callable[[int, int, date], bool]
) -> Iterator[tuple[int, str, date]]:
    """Each row with the first odd day of its text, and the column that it is from.

    `odd` is asked about a row, the position of a column, and the day that the row's text has of it.
    """
    told = set[int]()
    for position, days in view.days():
        for row in rows:
            if row not in told and (found := days[row]) is not None and odd(row, position, day := day_of(found)):
                told.add(row)
                yield row, view.composer.columns.names[position], day


def due_columns(view: RoundView, wording: BoundWording) -> frozenset[int]:
    """The date columns of a wording on whose days something is due: all of them where it asks for money as well."""
    roles, names = view.composer.roles, view.composer.columns.names
    dates = [position for position in wording.used if roles[position] is Role.DATE]
    if any(roles[position] is Role.MONEY for position in wording.used):
        return frozenset(dates)
    pieces = wording.wording.pieces
    found = {position for position in dates if _DUE_COLUMN.search(names[position])}
    for before, piece in pairwise(pieces):
        if isinstance(before, str) and isinstance(piece, Field) and _DUE.search(before):
            position = view.composer.columns.position(piece.name)
            found |= {position} & set(dates) if position is not None else set()
    return frozenset(found)


@lru_cache(maxsize=8)
def weekend_of(locale: str) -> frozenset[int]:
    """The days of the week, Monday 0, that are the weekend where a locale is at home (CLDR, supplemental week data)."""
    known = Locale.parse(locale, sep="-")
    start, end = known.weekend_start, known.weekend_end
    return frozenset((start + day) % 7 for day in range((end - start) % 7 + 1))
