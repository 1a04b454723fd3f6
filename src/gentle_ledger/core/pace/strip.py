"""Moments laid out over civil days: the strip of days that a forecast is drawn as."""

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from itertools import count
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
    """How many texts one stroke stands for, where so many leave on each day: a round number."""
    most = max(days, default=0)
    round_numbers = (digit * int(10**zeros) for zeros in count() for digit in (1, 2, 5))
    return next(each for each in round_numbers if most <= STROKES * each)


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


def strip_of(days: Sequence[tuple[date, Sequence[float]]], office: str, each: int) -> dict[date, DayOfTexts]:
    """Days of moments, see `by_day`, as they are drawn with a stroke for so many texts."""
    zone = zone_named(office)
    return {day: DayOfTexts(day, len(at), tuple(_minute(one, zone) for one in at[::each])) for day, at in days}


def _minute(at: float, zone: ZoneInfo) -> float:
    then = local(at, zone)
    return then.hour * 60 + then.minute + then.second / 60
