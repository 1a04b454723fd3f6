"""The texts of one round that are to go, and which of them may leave first at a moment."""

from collections.abc import Sequence
from heapq import heapify, heappop, heappush

from gentle_ledger.core.pace.decide import MISSED, Pace, RowState, Why, row_waits

_NEVER = float("inf")


class _Alike:
    """The texts of recipients in the same zones, by their places in the order; those among them whose moment came."""

    __slots__ = ("closes", "opens", "ready", "zones")

    def __init__(self, zones: tuple[str, ...]) -> None:
        self.zones = zones
        self.ready: list[int] = []
        self.opens = self.closes = -_NEVER


class Waiting:
    """Texts that are to go, in their order. One whose hours are closed, or whose moment has not come, holds up none.

    Time only runs forward here: each call is asked for a moment that is not before that of the last one.
    """

    def __init__(self, pace: Pace, rows: Sequence[RowState]) -> None:
        self._pace = pace
        self._rows = rows
        self._alike: dict[tuple[str, ...], _Alike] = {}
        self._of: list[_Alike] = []
        coming: list[tuple[float, int]] = []
        for place, row in enumerate(rows):
            zones = pace.clocks(row.zones)
            alike = self._alike.get(zones)
            if alike is None:
                alike = self._alike[zones] = _Alike(zones)
            self._of.append(alike)
            if row.moment is None:
                alike.ready.append(place)
            else:
                coming.append((row.moment, place))
        heapify(coming)
        self._coming = coming
        # The first of each group that is open; an entry whose group has closed since, or has another first, is stale.
        self._first: list[int] = []
        self._until = -_NEVER

    def first(self, at: float) -> int | None:
        """The place of the first text that may leave at that moment (POSIX seconds), as far as it is for the text."""
        while self._coming and self._coming[0][0] <= at:
            place = heappop(self._coming)[1]
            alike = self._of[place]
            heappush(alike.ready, place)
            if alike.ready[0] == place and alike.opens <= at < alike.closes:
                heappush(self._first, place)
        if at >= self._until:
            self._look_at_hours(at)
        while self._first:
            place = self._first[0]
            alike = self._of[place]
            if alike.ready and alike.ready[0] == place and alike.opens <= at < alike.closes:
                return place
            heappop(self._first)
        return None

    def take(self, place: int) -> None:
        """Takes out the text at a place that `first` has just given."""
        alike = self._of[place]
        heappop(alike.ready)
        heappop(self._first)
        if alike.ready:
            heappush(self._first, alike.ready[0])

    def comes_free(self, at: float) -> tuple[float, Why] | None:
        """When the next text may leave where none may now, and what it waits for; None where none ever may."""
        moment = self._coming[0][0] if self._coming else _NEVER
        hours = min((alike.opens for alike in self._alike.values() if alike.ready and alike.opens > at), default=_NEVER)
        if min(moment, hours) == _NEVER:
            return None
        return (hours, Why.HOURS) if hours <= moment else (moment, Why.MOMENT)

    def changes(self, at: float) -> float:
        """When it may be another text that may leave, or one where there is none, at the earliest."""
        moment = self._coming[0][0] if self._coming else _NEVER
        return min(moment, self._until if at < self._until else at)

    def _look_at_hours(self, at: float) -> None:
        """Opens and closes what has opened and closed since."""
        self._until = _NEVER
        self._first = []
        for alike in self._alike.values():
            if at >= alike.closes:
                self._ask_hours(alike, at)
            self._until = min(self._until, alike.opens if at < alike.opens else alike.closes)
            if alike.ready and alike.opens <= at < alike.closes:
                self._first.append(alike.ready[0])
        heapify(self._first)

    def _ask_hours(self, alike: _Alike, at: float) -> None:
        """The same hours as `row_waits` goes by, kept until they close."""
        pace = self._pace
        if pace.hours is None:
            alike.opens, alike.closes = at, _NEVER
            return
        window = pace.hours.window(alike.zones, at)
        alike.opens, alike.closes = (window.opens, window.closes) if window else (_NEVER, _NEVER)

    def missed(self, place: int, at: float) -> bool:
        """Whether the moment of the text at a place is too long over."""
        return row_waits(self._pace, self._rows[place], at) is MISSED
