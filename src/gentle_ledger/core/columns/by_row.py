"""Going through many rows: each entry worked out once and only when asked for, and way given to shorter work."""

from collections.abc import Callable, Iterator, Sequence
from typing import Generic, TypeVar, cast, overload

T = TypeVar("T")

GiveWay = Callable[[], None]
"""Called every few rows of long work, so that the caller can let shorter work go first, or end it by raising."""

EVERY = 16
"""Rows between two calls: about 2 ms of the slowest work there is, telling what kind of number a number is."""


def stay() -> None:
    """Gives way to nobody: for work that has the machine to itself."""


def giving_way(rows: Sequence[int], give_way: GiveWay) -> Iterator[int]:
    """The rows in order, with a call of `give_way` every few of them."""
    for start in range(0, len(rows), EVERY):
        give_way()
        yield from rows[start : start + EVERY]


class CourteousRows(Sequence[int]):
    """A list of row numbers that gives way whenever it is gone through."""

    def __init__(self, rows: Sequence[int], give_way: GiveWay) -> None:
        self._rows = rows
        self._give_way = give_way

    def __iter__(self) -> Iterator[int]:
        return giving_way(self._rows, self._give_way)

    def __len__(self) -> int:
        return len(self._rows)

    @overload
    def __getitem__(self, place: int) -> int: ...
    @overload
    def __getitem__(self, place: slice) -> Sequence[int]: ...
    def __getitem__(self, place: int | slice) -> int | Sequence[int]:
        return self._rows[place]


_UNKNOWN = object()


class ByRow(Generic[T]):
    """One entry a row (from 0), each worked out when it is first asked for and kept.

    `work_out` must be a pure function of the row: two threads may work the same entry out at once.
    """

    __slots__ = ("_all", "_known", "_work_out")

    def __init__(self, rows: int, work_out: Callable[[int], T]) -> None:
        self._known: list[object] = [_UNKNOWN] * rows
        self._all = False
        self._work_out = work_out

    def __getitem__(self, row: int) -> T:
        found = self._known[row]
        if found is _UNKNOWN:
            found = self._known[row] = self._work_out(row)
        return cast("T", found)

    def __len__(self) -> int:
        return len(self._known)

    def whole(self, give_way: GiveWay) -> list[T]:
        """Every entry, in order. The list is the one that is kept here: it is only to be read."""
        if not self._all:
            for row in giving_way(range(len(self._known)), give_way):
                if self._known[row] is _UNKNOWN:
                    self._known[row] = self._work_out(row)
            self._all = True
        return cast("list[T]", self._known)

    def anew(self, rows: Sequence[int], work_out: Callable[[int], T]) -> "ByRow[T]":
        """The same entries, but for some rows, which are worked out anew."""
        found = ByRow(0, work_out)
        found._known = self._known.copy()
        for row in rows:
            found._known[row] = _UNKNOWN
        return found
