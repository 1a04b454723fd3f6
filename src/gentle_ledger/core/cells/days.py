"""Days as people write them: which number is the month, told by all cells of a column together."""

import re
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta, timezone, tzinfo
from functools import lru_cache

from babel import Locale
from babel.dates import get_day_names, get_month_names
from babel.languages import get_official_languages
from babel.localedata import locale_identifiers

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.invisible import visible, without_accents, without_apostrophe
from gentle_ledger.core.cells.order import (
    DAYS,
    MOMENTS,
    Order,
    Place,
    Reading,
    asked,
    decides,
    each_by_itself,
    quoted,
    with_answer,
)

FIRST_YEAR, LAST_YEAR = 1950, 2099
"""Years a bill may speak of; one outside is a slip of a digit or a spreadsheet's zero (common practice, no source)."""

_CLOCK = re.compile(
    r"(?:[T ,]|(?<=\d)) ?(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d{1,9})?)? ?([AaPp]\.?[Mm]\.?)?"
    r" ?(Z|UTC|GMT|[+-]\d{2}:?\d{2})?"
)
_YEAR_FIRST = re.compile(r"(\d{4}) ?([/.\-]) ?(\d{1,2}) ?\2 ?(\d{1,2})")
_YEAR_LAST = re.compile(r"(\d{1,2}) ?([/.\-]) ?(\d{1,2}) ?\2 ?(\d{4}|\d{2})")
_BASIC = re.compile(r"(\d{4})(\d{2})(\d{2})")
_NAMED = re.compile(
    r"(\d{1,2})(?:st|nd|rd|th|er|\.|º)?[ .\-/]+(?:de |of )?([^\W\d_]{3,})\.?[ ,.\-/]+(?:de |of )?(\d{4}|\d{2})"
    r"|([^\W\d_]{3,})\.?[ .\-/]+(\d{1,2})(?:st|nd|rd|th)?[ ,.\-/]+(\d{4})"
    r"|(\d{4})[ ,.\-/]+([^\W\d_]{3,})\.?[ .\-/]+(\d{1,2})"
)
_WEEKDAY = re.compile(r"([^\W\d_]{2,})\.?,? +(?=.*\d)")
_SHORT_YEAR = 2
_LAST_OF_2000S = 68


@dataclass(frozen=True, slots=True)
class WrittenDay:
    """A day as it stands.

    Attributes:
        days: what it can be, by order; under None where it is that day whatever the column does.
        clock: its time of day; None without one.
        offset: how far its clock is ahead of UTC, where it says so; it is a moment then, which has its day and time
            by the clocks of an office.
        mark: what parts its numbers, where it is written in numbers with the year last.
    """

    days: dict[Order | None, date]
    clock: time | None = None
    offset: timedelta | None = None
    mark: str = ""

    @property
    def only(self) -> Order | None:
        """The one order it can be read in, None where there are several or where none is needed."""
        return next(iter(self.days)) if len(self.days) == 1 else None

    @property
    def open(self) -> bool:
        """Whether it is one day in one order and another day in another."""
        return len(set(self.days.values())) > 1

    def day(self, order: Order | None) -> date | None:
        """The day as it is written, in this order; None where it cannot be read so."""
        day = self.days.get(None) or (self.days.get(order) if order else None)
        if day is None and order not in DAYS and not self.open:
            day = next(iter(self.days.values()), None)
        return day

    def order_under(self, said: Order) -> Order | None:
        """How it is read where that was said of its column: a day that can be read in one way only is read so."""
        if None in self.days or said in self.days or said in MOMENTS:
            return said
        return self.only

    def value(self, order: Order | None, office: tzinfo) -> date | None:
        """The day in this order, with its time where it has one; a moment by the clocks of that zone.

        None where it cannot be read so.
        """
        day = self.day(order)
        if day is None or self.clock is None:
            return day
        moment = datetime.combine(day, self.clock)
        if self.offset is not None and not (order is Order.AS_WRITTEN and self.at_end_of_day):
            moment = _by_clocks_of(office, moment, self.offset)
        return moment if moment.time() != time() else moment.date()

    @property
    def at_end_of_day(self) -> bool:
        """Whether its clock is where days begin and end, as that of a mere day is that was made a moment."""
        return self.clock in _ENDS_OF_DAY

    def doubtful(self, office: tzinfo) -> bool:
        """Whether it may stand for a day, and is a moment of another day by the office's clocks."""
        day = self.day(None) if self.offset is not None and self.at_end_of_day else None
        return day is not None and _day_only(self.value(None, office)) != day


_ENDS_OF_DAY = frozenset({time(), time(23, 59), time(23, 59, 59)})


def _by_clocks_of(office: tzinfo, moment: datetime, offset: timedelta) -> datetime:
    """What the clocks of a zone show at a moment; the moment itself where that is before or after all calendars."""
    try:
        return moment.replace(tzinfo=timezone(offset)).astimezone(office).replace(tzinfo=None)
    except OverflowError:
        return moment


def _day_only(value: date | None) -> date | None:
    return value.date() if isinstance(value, datetime) else value


@lru_cache(maxsize=4096)
def written_day(typed: str, locale: str) -> WrittenDay | None:
    """A text as a day, or None for one that is none.

    A day may stand in ISO 8601 (2026-11-30, and 2026/11/30 after it), in numbers with the year last, or with the
    month's name in the locale or in English (CLDR), each with a time or a weekday beside it. A weekday that does not
    fit the day makes it none.
    """
    text = " ".join(without_apostrophe(visible(typed)).split())
    if not text[:1].isalnum() or len(text) > _LONGEST or not any(c.isdigit() for c in text):
        return None
    clock, offset = None, None
    if ":" in text:
        split = _without_clock(text)
        if split is None:
            return None
        text, clock, offset = split
    match = _WEEKDAY.match(text)
    weekday = _weekday_names(locale).get(match[1].casefold()) if match else None
    found = _days(text, locale)
    # "Mar 3, 2026" is in March, where "mar" is a Tuesday as well.
    if match and weekday is not None and not found:
        found = _days(text[match.end() :], locale)
        fitting = {order: day for order, day in found.items() if day.weekday() == weekday}
        # The weekday tells which of its numbers is the month, whatever the column does.
        found = dict.fromkeys([None], next(iter(fitting.values()))) if len(set(fitting.values())) == 1 else fitting
    numbers = _YEAR_LAST.fullmatch(text)
    return WrittenDay(found, clock, offset, numbers[2] if numbers else "") if found else None


_LONGEST = 60


def _without_clock(text: str) -> tuple[str, time, timedelta | None] | None:
    """The day without the time of day behind it, that time, and its offset; None for a time there is none of."""
    match = next((m for m in _CLOCK.finditer(text) if m.end() == len(text)), None)
    if match is None:
        return None
    hour = int(match[1])
    if match[4]:
        if not 1 <= hour <= _NOON:
            return None
        hour = hour % _NOON + (_NOON if match[4][0] in "pP" else 0)
    try:
        clock = time(hour, int(match[2]), int(match[3] or 0))
    except ValueError:
        return None
    return text[: match.start()].rstrip(" ,"), clock, _offset_in(match[5]) if match[5] else None


_NOON = 12


def _offset_in(written: str) -> timedelta:
    """The offset from UTC that stands behind a time of day, as in RFC 3339 (5.6) and RFC 9110 (5.6.7)."""
    if written[0] not in "+-":
        return timedelta()
    digits = written[1:].replace(":", "")
    ahead = timedelta(hours=int(digits[:2]), minutes=int(digits[2:]))
    return -ahead if written[0] == "-" else ahead


def _days(text: str, locale: str) -> dict[Order | None, date]:
    if match := _YEAR_FIRST.fullmatch(text):
        return _if_there(None, match[1], match[3], match[4])
    if match := _YEAR_LAST.fullmatch(text):
        first, second, last = match[1], match[3], match[4]
        found = _if_there(Order.DAY_FIRST, last, second, first) | _if_there(Order.MONTH_FIRST, last, first, second)
        return found | (_if_there(Order.YEAR_FIRST, first, second, last) if len(last) == _SHORT_YEAR else {})
    if match := _NAMED.fullmatch(text):
        day, name, year = next(part for part in (match.groups()[i : i + 3] for i in (0, 3, 6)) if part[0])
        if match[4]:
            day, name = name, day
        elif match[7]:
            day, year = year, day
        month = _month_names(locale).get(name.casefold())
        return _if_there(None, year, str(month), day) if month else {}
    return {}


def basic_day(typed: str) -> date | None:
    """A day in the basic format of ISO 8601 (20261130), or None; only a column of days is read so."""
    match = _BASIC.fullmatch(without_apostrophe(visible(typed)))
    found = _if_there(None, match[1], match[2], match[3]) if match else {}
    return next((day for day in found.values() if FIRST_YEAR <= day.year <= LAST_YEAR), None)


_SHAPE = re.compile(r"(?:\d{1,2} ?([/.\-]) ?\d{1,2} ?\1 ?\d{2,4}|\d{4} ?([/.\-]) ?\d{1,2} ?\2 ?\d{1,2})(?:[T ].*)?")


def shaped_like_a_day(typed: str) -> bool:
    """Whether a text is three numbers as days are written, whether there is such a day or not."""
    return _SHAPE.fullmatch(visible(typed)) is not None


_DAY_ZERO = date(1899, 12, 30)


def day_of_number(typed: str) -> date | None:
    """The day that a spreadsheet's number of days stands for (its day 0 is Dec 30, 1899), within the usual years."""
    text = visible(typed)
    if not (text.isdecimal() and text.isascii() and len(text) == len("46356")):
        return None
    day = _DAY_ZERO + timedelta(days=int(text))
    return day if FIRST_YEAR <= day.year <= LAST_YEAR else None


def _if_there(order: Order | None, year: str, month: str, day: str) -> dict[Order | None, date]:
    """The day under its order, or nothing when there is no such day."""
    try:
        return {order: date(_year(year), int(month), int(day))}
    except ValueError:
        return {}


def _year(typed: str) -> int:
    """A year; one of two digits is of 1969 to 2068 (POSIX.1-2017, strptime, %y)."""
    year = int(typed)
    if len(typed) > _SHORT_YEAR:
        return year
    return year + (2000 if year <= _LAST_OF_2000S else 1900)


def in_range(day: date) -> bool:
    """Whether a day is near enough to be meant."""
    return FIRST_YEAR <= day.year <= LAST_YEAR


def reading_of_days(cells: Iterable[Cell], locale: str, office: tzinfo, said: Order | None = None) -> Reading:
    """How a column of days is read: a day that fits one order only is evidence of it.

    `office` is the zone by whose clocks moments are read, `said` the clerk's answer, where there is one.
    """
    seen = _Seen(locale, office)
    for row, cell in enumerate(cells):
        if isinstance(cell, str) and (found := written_day(cell, locale)) is not None:
            seen.note(row, cell, found)
    return with_answer(seen.reading(), said, lambda: seen.reading(alone=True))


class _Seen:
    """What the cells of a column show: by order, those that can be read in it only, and how many could be in several.

    Days that are parted by another mark are another way of writing: 11/30/2026 says nothing of 5.11.2026. Of moments
    that have their day by another place's clocks, those at the ends of a day may be mere days.
    """

    def __init__(self, locale: str, office: tzinfo) -> None:
        self.locale = locale
        self.office = office
        self.sure: dict[Order, int] = {}
        self.first_sure: dict[Order, Place] = {}
        self.sure_by_mark: Counter[str] = Counter()
        self.open_by_mark: Counter[str] = Counter()
        self.first_open: dict[str, Place] = {}
        self.first_end: Place | None = None

    def note(self, row: int, cell: str, found: WrittenDay) -> None:
        if found.doubtful(self.office):
            self.first_end = self.first_end or (row, cell)
        if None in found.days:
            return
        if found.open:
            self.open_by_mark[found.mark] += 1
            self.first_open.setdefault(found.mark, (row, cell))
        elif (only := found.only) is not None:
            self.sure_by_mark[found.mark] += 1
            self.sure[only] = self.sure.get(only, 0) + 1
            self.first_sure.setdefault(only, (row, cell))

    def reading(self, *, alone: bool = False) -> Reading:
        """How they are read; `alone` where each cell speaks for itself only."""
        if len(self.sure) > 1:
            both = sorted(self.first_sure.values())[:2]
            if self.first_open:
                return self._asked([*self.first_open.values(), *both])
            return Reading(Order.EACH, sum(self.sure.values()), each_by_itself(both, self._under))
        order = next(iter(self.sure), None)
        evidence = self.sure[order] if order else 0
        in_question = [
            place
            for mark, place in self.first_open.items()
            if alone or not decides(self.sure_by_mark[mark], self.open_by_mark[mark])
        ]
        if in_question:
            return self._asked([*in_question, *self.first_sure.values()])
        if order is None:
            return self._of_moments()
        cell = self.first_sure[order][1]
        return Reading(order, evidence, f"{quoted(cell)} is read as {self._under(cell, order)}")

    def _of_moments(self) -> Reading:
        # A midnight to the second among other moments is hardly one by chance.
        if self.first_end is None:
            return Reading()
        ask = "is it the day as it is written, or a moment by the office's clocks?"
        return asked([self.first_end], ask, reversed(MOMENTS), self._under)

    def _asked(self, cells: list[Place]) -> Reading:
        written = [found for _, cell in cells if (found := written_day(cell, self.locale))]
        orders = [order for order in DAYS if any(order in found.days for found in written)]
        orders += [Order.EACH] if self.sure else []
        return asked(cells, "which comes first in this column?", orders, self._under)

    def _under(self, cell: str, said: Order) -> str:
        found = written_day(cell, self.locale)
        day = found.value(found.order_under(said), self.office) if found else None
        return f"{day:%b} {day.day}, {day.year}" if day and in_range(day) else "held"


@lru_cache(maxsize=16)
def _month_names(locale: str) -> dict[str, int]:
    """Months by their names, short names and beginnings in the locale, in English, and in the other languages that are
    official where the locale is (CLDR), with accents and without.

    What begins the names of two months, or is another month in another of these languages, is none.
    """
    own = _months_in(("en", locale.replace("-", "_")))
    others = _months_in(_official_beside(locale))
    begun: dict[str, set[int]] = {}
    for name, month in (*others, *own):
        for end in range(_SHORTEST_NAME, len(name) + 1):
            begun.setdefault(name[:end], set()).add(month)
    found = {start: months.pop() for start, months in begun.items() if len(months) == 1}
    return {**found, **dict(own), "sept": 9}


_SHORTEST_NAME = 3


def _months_in(tags: Iterable[str]) -> list[tuple[str, int]]:
    found = []
    for tag in tags:
        for context in ("format", "stand-alone"):
            for width in ("wide", "abbreviated"):
                names = get_month_names(width, context, locale=tag)
                for month in range(1, 13):
                    name = str(names[month]).rstrip(".").casefold()
                    found += [(name, month), (without_accents(name), month)]
    return found


def _official_beside(locale: str) -> list[str]:
    """The other languages that are official in the locale's territory, and that months are named in by words."""
    territory = Locale.parse(locale.replace("-", "_")).territory
    tags = get_official_languages(territory, regional=True, de_facto=True) if territory else ()
    return [tag for tag in tags if tag in locale_identifiers()]


@lru_cache(maxsize=16)
def _weekday_names(locale: str) -> dict[str, int]:
    """Weekdays, Monday as 0, by their names and short names in the same languages; the locale's own come first."""
    found: dict[str, int] = {}
    for tag in (*_official_beside(locale), "en", locale.replace("-", "_")):
        for width in ("wide", "abbreviated"):
            names = get_day_names(width, locale=tag)
            found |= {str(names[day]).rstrip(".").casefold(): day for day in range(7)}
    return {**found, "tues": 1, "weds": 2, "thur": 3, "thurs": 3}
