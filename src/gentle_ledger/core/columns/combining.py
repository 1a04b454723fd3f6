"""Rows of one person combined into one text: which rows belong together, and what becomes of each column."""

from collections.abc import Callable, Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from babel.lists import format_list

from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.formulas.values import WORK, ZERO, Code, Fault, as_text, days_between, fault_of
from gentle_ledger.core.recipe.combine import Aggregate


@dataclass(frozen=True, slots=True)
class Groups:
    """Which of the rows (from 0) belong together.

    A group's combined cells have a place of their own behind the rows: the first group's is `rows`, the next one's
    `rows` + 1.

    Attributes:
        rows: how many rows there are.
        members: the rows of each group, in order; a row that stands alone is in none.
        apart: the rows that would be a group, and whose names are of different people: each stands alone until somebody
            says that they belong together.
        key: stands for exactly these groups.
    """

    rows: int
    members: tuple[tuple[int, ...], ...] = ()
    apart: tuple[tuple[int, ...], ...] = ()
    key: Hashable = None
    _place: dict[int, int] = field(default_factory=dict, compare=False)

    def __post_init__(self) -> None:
        for group, rows in enumerate(self.members):
            for row in rows:
                self._place[row] = self.rows + group

    def __len__(self) -> int:
        """How many places there are: the rows, and one for each group."""
        return self.rows + len(self.members)

    def place(self, row: int) -> int:
        """Where the cells of a row's text are: at the row itself, or at its group's place."""
        return self._place.get(row, row)

    def together(self, row: int) -> tuple[int, ...]:
        """The rows of the row's group; none for a row that stands alone."""
        place = self._place.get(row)
        return () if place is None else self.members[place - self.rows]

    def lead(self, row: int) -> int:
        """The row that bears the text: the first of its group, or the row itself."""
        place = self._place.get(row)
        return row if place is None else self.members[place - self.rows][0]


def grouped(
    keys: Sequence[str],
    kept_out: Collection[int],
    belong: Callable[[str, Sequence[int]], bool] = lambda _key, _rows: True,
) -> Groups:
    """Groups the rows that have the same key.

    Args:
        keys: one a row; "" belongs to nobody.
        kept_out: rows that are in no group.
        belong: whether rows with a key belong together.
    """
    found: dict[str, list[int]] = {}
    for row, key in enumerate(keys):
        if key and row not in kept_out:
            found.setdefault(key, []).append(row)
    several = [(tuple(rows), belong(key, rows)) for key, rows in found.items() if len(rows) > 1]
    members = tuple(rows for rows, together in several if together)
    apart = tuple(rows for rows, together in several if not together)
    return Groups(len(keys), members, apart, (members, apart))


def combined(
    name: str,
    rows: Sequence[int],
    value: Callable[[int], Value],
    shown: Callable[[int], object],
    how: Aggregate | None,
    locale: str,
) -> Value:
    """What a group has in a column.

    Args:
        name: the column's.
        rows: the group's, from 0.
        value: gives a row's value.
        shown: gives it as it stands in a text, for a list.
        how: None wants all rows to agree.
        locale: BCP 47, for the "and" of a list.
    """
    values = {row: value(row) for row in rows}
    for row, found in values.items():
        if isinstance(found, Unreadable):
            why = found.why if isinstance(found, Fault) else f"{name} is {found.why}"
            return fault_of(Code.VALUE, f"in row {number_of_row(row)}, {why}", name)
    known = {row: found for row, found in values.items() if found is not None and found != ""}
    if how is Aggregate.COUNT:
        return Decimal(len(known))
    if not known:
        return None
    if how is Aggregate.LISTED:
        different = dict.fromkeys(str(text) for row in known if isinstance(text := shown(row), str))
        return str(format_list(list(different), locale=locale.replace("-", "_")))
    if how is None:
        return _agreed(name, known)
    if how in {Aggregate.FIRST, Aggregate.LAST}:
        return list(known.values())[0 if how is Aggregate.FIRST else -1]
    return _sum(name, known) if how is Aggregate.SUM else _outermost(name, known, how)


def _agreed(name: str, known: Mapping[int, Value]) -> Value:
    """The value that all rows share that have one; an error when they differ: nobody said which of them counts."""
    if len(set(known.values())) > 1:
        where = listed([str(number_of_row(row)) for row in known])
        return fault_of(Code.VALUE, f"{name} differs in rows {where}, and how to combine it is not set", name)
    return next(iter(known.values()))


def _not_a(name: str, row: int, found: Value, wanted: str) -> Fault:
    typed = as_text(found) if not isinstance(found, Unreadable) else found.typed
    why = f"in row {number_of_row(row)}, {name} is '{clipped(typed)}', not {wanted}"
    return fault_of(Code.VALUE, why, name, typed=typed, wanted=wanted)


def _sum(name: str, known: Mapping[int, Value]) -> Value:
    total = ZERO
    for row, found in known.items():
        if not isinstance(found, Decimal):
            return _not_a(name, row, found, "a number")
        total = WORK.add(total, found)
    return total


def _outermost(name: str, known: Mapping[int, Value], how: Aggregate) -> Value:
    best: Decimal | date | None = None
    for row, found in known.items():
        if not isinstance(found, (Decimal, date)):
            return _not_a(name, row, found, "a number or a date")
        if best is None:
            best = found
        elif isinstance(found, Decimal) != isinstance(best, Decimal):
            return _not_a(name, row, found, "like the rows before it")
        elif _further(found, best, how):
            best = found
    return best


def _further(found: Decimal | date, best: Decimal | date, how: Aggregate) -> bool:
    if isinstance(found, Decimal) and isinstance(best, Decimal):
        apart = found - best
    elif isinstance(found, date) and isinstance(best, date):
        apart = days_between(found, best)
    else:
        return False
    return apart > 0 if how is Aggregate.LARGEST else apart < 0
