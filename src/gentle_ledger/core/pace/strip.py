"""Moments laid out over civil days: the strip of days that a forecast is drawn as."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from zoneinfo import ZoneInfo

from gentle_ledger.core.pace.civil import day_begins, local, zone_named

STROKES = 60
"""Strokes a day that can still be told from each other."""


@dataclass(frozen=True, slots=True)
class DayOfTexts:
    """The texts of one civil day: how many, and the minute of the day of every so manieth of them."""

    day: date
    texts: int
    minutes: tuple[float, ...]


def texts_a_stroke(days: Sequence[int]) -> int:
    """How many texts one stroke stands for, where so many leave on each day."""
    most = max(days, default=0)
    return next(each for each in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1_000, 10_000) if most <= STROKES * each)


def by_day(moments: Sequence[float], office: str) -> list[tuple[date, list[float]]]:
    """Moments (POSIX seconds) by the civil day where the office is, the earliest first."""
    zone, left = zone_named(office), sorted(moments)
    found, start = [], 0
    while start < len(left):
        day = local(left[start], zone).date()
        ends = day_begins(date.fromordinal(day.toordinal() + 1), zone)
        end = max(start + 1, bisect_left(left, ends))
        found.append((day, left[start:end]))
        start = end
    return found


def strip_of(moments: Sequence[float], office: str, each: int | None = None) -> tuple[list[DayOfTexts], int]:
    """The days of some moments, and how many texts a stroke stands for; `each` where that is said."""
    days, zone = by_day(moments, office), zone_named(office)
    each = each or texts_a_stroke([len(of_day) for _, of_day in days])
    return [
        DayOfTexts(day, len(of_day), tuple(_minute(at, zone) for at in of_day[::each])) for day, of_day in days
    ], each


def _minute(at: float, zone: ZoneInfo) -> float:
    then = local(at, zone)
    return then.hour * 60 + then.minute + then.second / 60
