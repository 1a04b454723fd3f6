"""What was worked out of one sheet, kept from one change to the next with the columns that it was worked out from."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Collection, Hashable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar, cast

from gentle_ledger.core.sheets.model import Sheet

T = TypeVar("T")

Redo = Callable[[Any, Sequence[int], Sheet], Any]
"""From what was kept, the rows (from 0) whose cells changed, and the sheet as it is now, to what is kept instead."""


@dataclass(frozen=True, slots=True)
class Entry:
    """One result.

    Attributes:
        value: the result; it is only to be read.
        reads: positions of the sheet's columns whose cells it was worked out from.
        redo: brings it up to date row by row; None where a change of any cell concerns it as a whole.
    """

    value: object
    reads: frozenset[int]
    redo: Redo | None = None


@dataclass
class Cache:
    """Results by a key that stands for everything besides cells that they depend on; the oldest go first.

    Several threads may ask at once; two may then work the same result out.
    """

    most: int
    _entries: OrderedDict[Hashable, Entry] = field(default_factory=OrderedDict)
    _guard: threading.Lock = field(default_factory=threading.Lock)

    def kept(self, key: Hashable, reads: Collection[int], make: Callable[[], T], redo: Redo | None = None) -> T:
        """What was made under this key before, or is made now."""
        with self._guard:
            if key in self._entries:
                self._entries.move_to_end(key)
                return cast("T", self._entries[key].value)
        entry = Entry(make(), frozenset(reads), redo)
        with self._guard:
            found = self._entries.setdefault(key, entry)
            while len(self._entries) > self.most:
                self._entries.popitem(last=False)
        return cast("T", found.value)

    def after(self, changed: Collection[tuple[int, int]], sheet: Sheet) -> "Cache":
        """What still holds after the cells in these rows and columns (from 0) got another content.

        An entry goes that reads one of the columns. One that can be redone is there again with those rows worked out
        anew.
        """
        found = Cache(self.most)
        with self._guard:
            for key, entry in self._entries.items():
                rows = sorted({row for row, column in changed if column in entry.reads})
                if not rows:
                    found._entries[key] = entry
                elif entry.redo:
                    found._entries[key] = replace(entry, value=entry.redo(entry.value, rows, sheet))
        return found
