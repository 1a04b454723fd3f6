"""Rounds that were run ahead, remembered for a while."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from datetime import date

from gentle_ledger.app.counting.forecasting import RunAhead

_KEPT = 12
_FRESH = 20.0
"""Seconds for which one stands: the mean draws that it was made with are not those that are drawn."""


class RunsAhead:
    """The last few of them, each with what it depends on."""

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._kept: OrderedDict[int, tuple[Hashable, float, RunAhead]] = OrderedDict()
        self._days: dict[tuple[str, date], int] = {}

    def days_of_use(self, number: str, day: date, count: Callable[[], int]) -> int:
        """On how many days before a civil day a sending number was in use: counted once a day."""
        with self._guard:
            known = self._days.get((number, day))
        if known is None:
            known = count()
            with self._guard:
                self._days = {(number, day): known}
        return known

    def kept(self, round_id: int, key: Hashable, now: float, make: Callable[[], RunAhead]) -> RunAhead:
        """That of a round, made anew where the key is another, or the last one too old at `now` (POSIX seconds)."""
        with self._guard:
            known = self._kept.get(round_id)
        if known and known[0] == key and 0 <= now - known[1] < _FRESH:
            return known[2]
        made = make()
        with self._guard:
            self._kept[round_id] = (key, now, made)
            self._kept.move_to_end(round_id)
            while len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
        return made
