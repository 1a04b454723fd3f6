"""The hours within which texts may leave: from and to on some days, in the zone of the recipient or of the office."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum
from functools import lru_cache
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo

from gentle_ledger.core.pace.civil import days_from, local, stretch_of_day, zone_named

if TYPE_CHECKING:
    from holidays import HolidayBase

AHEAD_DAYS = 400
"""Days that are looked through for the next hours; what does not open within a year and a month never does."""
_ALL_DAYS = frozenset(range(7))


class WhoseClocks(StrEnum):
    """Whose clocks tell the hours."""

    RECIPIENT = "recipient"
    OFFICE = "office"


class NoSuchHolidays(ValueError):
    """No public holidays are known by that code."""


@lru_cache(maxsize=64)
def holidays_of(code: str) -> "HolidayBase":
    """The public holidays of a country or a part of it, by its ISO 3166-1 or 3166-2 code, such as "CA-NS".

    They are those of the `holidays` package, days on which a holiday is observed included. Raises NoSuchHolidays.
    """
    import holidays

    country, _, part = code.partition("-")
    try:
        return holidays.country_holidays(country, subdiv=part or None, language="en_CA" if country == "CA" else None)
    except (NotImplementedError, KeyError, ValueError) as fault:
        raise NoSuchHolidays(f'no public holidays are known for "{code}"') from fault


@lru_cache(maxsize=16384)
def is_holiday(day: date, code: str) -> bool:
    """Whether a day is a public holiday there."""
    return day in holidays_of(code)


@dataclass(frozen=True, slots=True)
class Window:
    """A stretch within the hours, in POSIX seconds: from `opens`, which is inside, to `closes`, which is not."""

    opens: float
    closes: float


@dataclass(frozen=True)
class Hours:
    """When texts may leave, told by civil time.

    Attributes:
        opens, closes: minutes of a civil day; the first is inside, the second is not.
        days: the days of the week, 0 for Monday.
        where: whose clocks tell them.
        holidays: whose public holidays are kept, by an ISO 3166-2 code; "" for none.
    """

    opens: int
    closes: int
    days: frozenset[int] = _ALL_DAYS
    where: WhoseClocks = WhoseClocks.RECIPIENT
    holidays: str = ""
    _last: dict[tuple[str, ...], tuple[float, Window | None]] = field(
        default_factory=dict, init=False, repr=False, compare=False
    )

    def kept_on(self, day: date) -> bool:
        """Whether there are any on a civil day."""
        return day.weekday() in self.days and not (self.holidays and is_holiday(day, self.holidays))

    def window(self, zones: Sequence[str], at: float) -> Window | None:
        """The stretch that `at` (POSIX seconds) is inside, or else the next one; None where there never is one.

        Of several zones it must be inside the hours of all. The last answer is remembered, for it is asked again and
        again.
        """
        key = tuple(zones)
        known = self._last.get(key)
        if known and known[0] <= at and (known[1] is None or at < known[1].closes):
            return known[1]
        found = self._window(tuple(map(zone_named, key)), at)
        if len(self._last) > _MOST_REMEMBERED:
            self._last.clear()
        self._last[key] = (at, found)
        return found

    def _window(self, zones: tuple[ZoneInfo, ...], at: float) -> Window | None:
        since, latest = at, at + AHEAD_DAYS * 24 * 3600.0
        while since < latest:
            windows = [self._of_zone(zone, since) for zone in zones]
            found = [window for window in windows if window is not None]
            if len(found) < len(windows):
                return None
            opens, closes = max(w.opens for w in found), min(w.closes for w in found)
            if opens < closes:
                return Window(opens, closes)
            since = opens
        return None

    def _of_zone(self, zone: ZoneInfo, at: float) -> Window | None:
        first = local(at, zone).date()
        for day in days_from(first):
            if (day - first).days > AHEAD_DAYS:
                return None
            if self.kept_on(day):
                for opens, closes in stretch_of_day(day, zone, self.opens, self.closes):
                    if at < closes:
                        return Window(opens, closes)
        return None


_MOST_REMEMBERED = 1000
