"""One entry a row, each worked out once and only when it is asked for."""

from collections.abc import Callable, Sequence
from typing import Generic, TypeVar, cast

T = TypeVar("T")

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

    @property
    def worked_out(self) -> int:
        """How many entries are worked out so far."""
        return len(self._known) if self._all else len(self._known) - self._known.count(_UNKNOWN)

    def whole(self) -> list[T]:
        """Every entry, in order. The list is the one that is kept here: it is only to be read."""
        if not self._all:
            known, work_out = self._known, self._work_out
            for row, found in enumerate(known):
                if found is _UNKNOWN:
                    known[row] = work_out(row)
            self._all = True
        return cast("list[T]", self._known)

    def anew(self, rows: Sequence[int], work_out: Callable[[int], T]) -> "ByRow[T]":
        """The same entries, but for some rows, which are worked out anew."""
        found = ByRow(0, work_out)
        found._known = self._known.copy()
        for row in rows:
            found._known[row] = _UNKNOWN
        return found
