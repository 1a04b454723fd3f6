"""Days, months and working days (OpenFormula: ODF 1.3 part 4, 6.10)."""

import calendar
from collections.abc import Callable
from datetime import date, timedelta
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell, column_key
from gentle_ledger.core.cells.reading import reader
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.formulas.registry import FormulaContext, define
from gentle_ledger.core.formulas.values import (
    ONE,
    WORK,
    ZERO,
    Code,
    Wrong,
    as_day,
    as_text,
    day_of,
    days_between,
    not_a,
    whole,
)

_DATES = "Dates"


_FOUR_DIGITS = 1000
"""The first year that is written with four digits: one of two is asked for, not taken for the year 26."""


def _no_such_day() -> Wrong:
    return Wrong(Code.NUMBER, "the date falls outside the years 1 to 9999")


def month_later(day: date, months: int) -> date:
    """The same day so many months later, or the month's last day when it has no such day."""
    year, month = divmod(day.year * 12 + day.month - 1 + months, 12)
    if not 1 <= year <= 9999:
        raise _no_such_day()
    return date(year, month + 1, min(day.day, calendar.monthrange(year, month + 1)[1]))


@define(
    _DATES,
    "DATE",
    "year:number; month:number; day:number",
    "The date of that year, month and day; a month past 12 or a day past the end runs on into what follows.",
    ("DATE(2026; 11; 30)", 'DATEVALUE("2026-11-30")'),
    ("DATE(2005; 14; 15)", "DATE(2006; 2; 15)"),
    ("DATE(2005; 2; 29)", "DATE(2005; 3; 1)"),
    ("DATE(26; 11; 30)", "#NUM!"),
)
def date_(year: Decimal, month: Decimal, day: Decimal) -> date:
    if 0 <= year < _FOUR_DIGITS:
        raise Wrong(Code.NUMBER, f"{as_text(year)} is not a year of four digits, such as 2026")
    if not _FOUR_DIGITS <= year <= 9999 or abs(month) > 120_000 or abs(day) > 4_000_000:
        raise _no_such_day()
    first = month_later(date(whole(year), 1, 1), whole(month) - 1)
    try:
        return first + timedelta(days=whole(day) - 1)
    except OverflowError:
        raise _no_such_day() from None


@define(
    _DATES,
    "DATEVALUE",
    "text:text",
    "The date that a text is: in ISO 8601, or with the month's name. One that could be two days is an error.",
    ('DATEVALUE("2026-11-30")', "DATE(2026; 11; 30)"),
    ('DATEVALUE("30 Nov 2026")', "DATE(2026; 11; 30)"),
    ('DATEVALUE("05/11/2026")', "#VALUE!"),
    ('DATEVALUE("soon")', "#VALUE!"),
    in_context=True,
)
def datevalue(around: FormulaContext, text: str) -> date:
    read = reader((), Role.DATE, around.currency, around.locale, office=around.office)(text)
    if not isinstance(read, date):
        raise not_a("a date", text, None)
    return day_of(read)


@define(
    _DATES,
    "TODAY",
    "",
    "The round's own date, the one it is dated. It does not move while the round is prepared and sent.",
    ("TODAY()", "DATE(2026; 11; 24)"),
    in_context=True,
)
def today(around: FormulaContext) -> date:
    if around.today is None:
        raise Wrong(Code.NOT_AVAILABLE, "the round has no date of its own: set what it is dated")
    return around.today


@define(_DATES, "YEAR", "date:date", "The year of a date.", ("YEAR(DATE(2026; 11; 30))", "2026"))
def year(day: date) -> Decimal:
    return Decimal(day.year)


@define(_DATES, "MONTH", "date:date", "The month of a date, 1 to 12.", ("MONTH(DATE(2026; 11; 30))", "11"))
def month(day: date) -> Decimal:
    return Decimal(day.month)


@define(_DATES, "DAY", "date:date", "The day of the month, 1 to 31.", ("DAY(DATE(2026; 11; 30))", "30"))
def day_(day: date) -> Decimal:
    return Decimal(day.day)


@define(
    _DATES,
    "WEEKDAY",
    "date:date; [type:number]",
    "The day of the week as a number. Type 1, or none: Sunday is 1. Type 2: Monday is 1. Type 3: Monday is 0. "
    "Types 11 to 17: 1 is Monday, Tuesday and so on to Sunday.",
    ("WEEKDAY(DATE(2026; 11; 24))", "3"),
    ("WEEKDAY(DATE(2026; 11; 24); 2)", "2"),
    ("WEEKDAY(DATE(2026; 11; 24); 3)", "1"),
)
def weekday(day: date, kind: Decimal = ONE) -> Decimal:
    from_monday = day.weekday()
    if kind == 3:
        return Decimal(from_monday)
    first = {Decimal(1): 6, Decimal(2): 0}.get(kind)
    if first is None and kind == int(kind) and 11 <= kind <= 17:
        first = int(kind) - 11
    if first is None:
        raise Wrong(Code.NUMBER, f"WEEKDAY has no type {as_text(kind)}")
    return Decimal((from_monday - first) % 7 + 1)


@define(
    _DATES,
    "DAYS",
    "end:date; start:date",
    "How many days from the start to the end; negative when the end comes first.",
    ("DAYS(DATE(2026; 11; 30); DATE(2026; 11; 24))", "6"),
)
def days(end: date, start: date) -> Decimal:
    return days_between(day_of(end), day_of(start))


@define(
    _DATES,
    "EDATE",
    "start:date; months:number",
    "The same day so many months later; the last day of a month that is too short.",
    ("EDATE(DATE(2026; 1; 31); 1)", "DATE(2026; 2; 28)"),
    ("EDATE(DATE(2006; 5; 31); -3)", "DATE(2006; 2; 28)"),
)
def edate(start: date, months: Decimal) -> date:
    return month_later(start, _months(months))


@define(
    _DATES,
    "EOMONTH",
    "start:date; months:number",
    "The last day of the month so many months later.",
    ("EOMONTH(DATE(2026; 11; 24); 0)", "DATE(2026; 11; 30)"),
    ("EOMONTH(DATE(2006; 1; 1); 1)", "DATE(2006; 2; 28)"),
)
def eomonth(start: date, months: Decimal) -> date:
    found = month_later(start.replace(day=1), _months(months))
    return date(found.year, found.month, calendar.monthrange(found.year, found.month)[1])


def _months(months: Decimal) -> int:
    if abs(months) > 120_000:
        raise _no_such_day()
    return whole(months)


def _free_days(around: FormulaContext, holidays: tuple[Cell, ...]) -> list[date]:
    """The holidays that fall on weekdays, each once. A text names a kept table, whose keys are the days."""
    found: set[date] = set()
    for holiday in holidays:
        table = around.tables.get(column_key(holiday)) if isinstance(holiday, str) else None
        named = [holiday] if table is None else list(table)
        found |= {day_of(as_day(day)) for day in named if day is not None}
    return sorted(day for day in found if day.weekday() < 5)


def _weekdays_until(day: date) -> int:
    """Mondays to Fridays from 0001-01-01, a Monday, up to and including the day."""
    weeks, rest = divmod(day.toordinal(), 7)
    return weeks * 5 + min(rest, 5)


@define(
    _DATES,
    "NETWORKDAYS",
    "start:date; end:date; [holiday:any]…",
    "Working days from start to end, both counted: Monday to Friday without the holidays. Holidays are dates, or the "
    "name of a kept table with a date in each line.",
    ("NETWORKDAYS(DATE(2024; 1; 1); DATE(2024; 1; 31))", "23"),
    ("NETWORKDAYS(DATE(2026; 11; 24); DATE(2026; 11; 30); DATE(2026; 11; 25))", "4"),
    in_context=True,
)
def networkdays(around: FormulaContext, start: date, end: date, *holidays: Cell) -> Decimal:
    first, last = day_of(start), day_of(end)
    turned = first > last
    if turned:
        first, last = last, first
    free = sum(first <= day <= last for day in _free_days(around, holidays))
    found = _weekdays_until(last) - _weekdays_until(first) + (first.weekday() < 5) - free
    return Decimal(-found if turned else found)


@define(
    _DATES,
    "WORKDAY",
    "start:date; days:number; [holiday:any]…",
    "The date so many working days after the start, or before it when negative. Holidays as in NETWORKDAYS.",
    ("WORKDAY(DATE(2026; 11; 24); 5)", "DATE(2026; 12; 1)"),
    ("WORKDAY(DATE(2026; 11; 24); -2)", "DATE(2026; 11; 20)"),
    in_context=True,
)
def workday(around: FormulaContext, start: date, days: Decimal, *holidays: Cell) -> date:
    steps = whole(days)
    if abs(steps) > 2_700_000:
        raise _no_such_day()
    day, way = day_of(start), 1 if steps > 0 else -1
    free = _free_days(around, holidays)
    try:
        weeks, left = divmod(abs(steps), 5)
        # Whole weeks at once; at least one step is taken singly, so that the end is never a Saturday or Sunday.
        if weeks and not left:
            weeks, left = weeks - 1, 5
        passed = day
        day += timedelta(weeks=way * weeks)
        while left:
            day += timedelta(days=way)
            left -= day.weekday() < 5
        while more := sum(min(passed, day) <= off <= max(passed, day) and off != passed for off in free):
            passed = day
            while more:
                day += timedelta(days=way)
                more -= day.weekday() < 5
    except OverflowError:
        raise _no_such_day() from None
    return day


_ACTUAL, _EUROPEAN = 1, 4


@define(
    _DATES,
    "YEARFRAC",
    "start:date; end:date; [basis:number]",
    "The part of a year between two dates. Basis 0, or none: months of 30 days, United States rule; 1: actual days; "
    "2: actual days by 360; 3: actual days by 365; 4: months of 30 days, European rule.",
    ("YEARFRAC(DATE(2026; 1; 1); DATE(2026; 7; 1))", "0.5"),
    ("YEARFRAC(DATE(2026; 1; 1); DATE(2027; 1; 1); 3)", "1"),
    ("YEARFRAC(DATE(2026; 1; 1); DATE(2026; 1; 31); 2)", "30/360"),
)
def yearfrac(start: date, end: date, basis: Decimal = ZERO) -> Decimal:
    first, last = sorted((day_of(start), day_of(end)))
    between = Decimal((last - first).days)
    if basis == 2:
        return WORK.divide(between, Decimal(360))
    if basis == 3:
        return WORK.divide(between, Decimal(365))
    if basis == _ACTUAL:
        return WORK.divide(between, _year_length(first, last))
    if basis not in {ZERO, Decimal(_EUROPEAN)}:
        raise Wrong(Code.NUMBER, f"YEARFRAC has no basis {as_text(basis)}")
    return WORK.divide(Decimal(_thirties(first, last, european=basis == _EUROPEAN)), Decimal(360))


def _year_length(first: date, last: date) -> Decimal:
    """Days in the year between two dates: of that one year, or the mean of all years touched."""
    if last <= month_later(first, 12):
        leap_days = (date(y, 2, 29) for y in range(first.year, last.year + 1) if calendar.isleap(y))
        same_leap_year = first.year == last.year and calendar.isleap(first.year)
        return Decimal(366 if same_leap_year or any(first <= day <= last for day in leap_days) else 365)
    years = range(first.year, last.year + 1)
    return WORK.divide(Decimal(sum(366 if calendar.isleap(y) else 365 for y in years)), Decimal(len(years)))


def _thirties(first: date, last: date, *, european: bool) -> int:
    """Days between two dates when every month has 30."""
    day1, day2 = first.day, last.day
    if european:
        day1, day2 = min(day1, 30), min(day2, 30)
    else:
        if _ends_february(first):
            day2 = 30 if _ends_february(last) else day2
            day1 = 30
        day1 = min(day1, 30)
        day2 = 30 if day2 == 31 and day1 == 30 else day2
    return (last.year - first.year) * 360 + (last.month - first.month) * 30 + day2 - day1


def _ends_february(day: date) -> bool:
    return day.month == 2 and day.day == calendar.monthrange(day.year, 2)[1]


def _whole_months(start: date, end: date) -> int:
    return (end.year - start.year) * 12 + end.month - start.month - (end.day < start.day)


def _days_past_months(start: date, end: date) -> int:
    return (end - month_later(start, _whole_months(start, end))).days


def _days_past_years(start: date, end: date) -> int:
    return (end - month_later(start, _whole_months(start, end) // 12 * 12)).days


_UNITS: dict[str, Callable[[date, date], int]] = {
    "y": lambda start, end: _whole_months(start, end) // 12,
    "m": _whole_months,
    "d": lambda start, end: (end - start).days,
    "ym": lambda start, end: _whole_months(start, end) % 12,
    "yd": _days_past_years,
    "md": _days_past_months,
}


@define(
    _DATES,
    "DATEDIF",
    "start:date; end:date; unit:text",
    'Whole years "y", months "m" or days "d" from start to end; "ym" the months past the whole years, "yd" the days '
    'past them, "md" the days past the whole months.',
    ('DATEDIF(DATE(2026; 1; 15); DATE(2026; 11; 24); "m")', "10"),
    ('DATEDIF(DATE(2026; 1; 15); DATE(2026; 11; 24); "md")', "9"),
    ('DATEDIF(DATE(2026; 2; 1); DATE(2026; 1; 1); "d")', "#NUM!"),
)
def datedif(start: date, end: date, unit: str) -> Decimal:
    first, last = day_of(start), day_of(end)
    if first > last:
        raise Wrong(Code.NUMBER, "the start comes after the end")
    work = _UNITS.get(unit.strip().casefold())
    if work is None:
        raise not_a("one of the units y, m, d, ym, yd and md", unit, None)
    return Decimal(work(first, last))


PLACE = 30
"""Where these functions stand in the help, the smallest first."""
FUNCTIONS = (
    today,
    date_,
    datevalue,
    year,
    month,
    day_,
    weekday,
    days,
    edate,
    eomonth,
    networkdays,
    workday,
    yearfrac,
    datedif,
)
