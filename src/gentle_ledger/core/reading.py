"""Reading a cell by its column's role: amounts and numbers as Decimal, days as dates, the rest as it stands."""

import re
import unicodedata
from collections.abc import Callable, Iterable, Sequence
from datetime import date, datetime, time
from decimal import Decimal
from enum import StrEnum
from functools import lru_cache

from babel.dates import get_month_names
from babel.numbers import (
    NumberFormatError,
    get_currency_symbol,
    get_group_symbol,
    parse_decimal,
)

from gentle_ledger.core.formats import known_currency
from gentle_ledger.core.sheets.faults import is_fault
from gentle_ledger.core.sheets.model import Cell, as_written, is_blank
from gentle_ledger.core.values import Role, Unreadable, too_large
from gentle_ledger.core.words import clipped

Value = str | Decimal | date | bool | Unreadable | None
"""What a cell is read as or computed to. None is a blank cell."""

_PLAIN = re.compile(r"[+-]?\d+(?:\.\d+)?")
_DIGITS = re.compile(r"[\d.,'\u2019\s]+")
_ISO_DATE = re.compile(
    r"(\d{4})-(\d{1,2})-(\d{1,2})(?:[T ](?:(\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?))?)?(?:Z|[+-]\d{2}:\d{2})?"
)
_NUMERIC_DATE = re.compile(r"(\d{1,2})([/.\-])(\d{1,2})\2(\d{4}|\d{2})")
_MAX_DIGITS = 30


class Order(StrEnum):
    """How the cells of a column are to be taken where they could be taken in two ways."""

    DAY_FIRST = "day first"
    MONTH_FIRST = "month first"
    POINT = "decimal point"
    COMMA = "decimal comma"


def reader(
    cells: Sequence[Cell], role: Role, currency: str, locale: str, order: Order | None = None
) -> Callable[[Cell], Value]:
    """How a cell of this column is read by its role.

    Days come from date cells, ISO 8601 text, days with the month's name, and 24/11/2026 or 11/24/2026 where the column
    as a whole leaves no doubt which of the two it is. The decimal mark, too, is that of the column as a whole, and that
    of the locale where the column does not tell. `order` settles either.
    """
    read = _reader(cells, role, currency, locale, order)

    def without_faults(cell: Cell) -> Value:
        if isinstance(cell, str) and is_fault(cell):
            return Unreadable(f'"{clipped(cell)}" is an error of the spreadsheet', cell, "a value")
        return read(cell)

    return without_faults


def _reader(
    cells: Sequence[Cell], role: Role, currency: str, locale: str, order: Order | None
) -> Callable[[Cell], Value]:
    if role in {Role.MONEY, Role.NUMBER}:
        mark = {Order.POINT: ".", Order.COMMA: ","}.get(order) if order else None
        mark = mark or decimal_mark(cells)
        allowed = currency if role is Role.MONEY else None
        return lambda cell: _number(cell, locale, allowed, mark=mark)
    if role is Role.DATE:
        first = {Order.DAY_FIRST: True, Order.MONTH_FIRST: False}.get(order) if order else None
        day_first = _day_first(cells) if first is None else first
        return lambda cell: _date(cell, day_first, locale)
    return _as_it_stands


def _as_it_stands(cell: Cell) -> Value:
    if is_blank(cell):
        return None
    return cell if isinstance(cell, bool) else as_written(cell).strip()


def fits_both_orders(cells: Iterable[Cell]) -> bool:
    """True when a column has days like 05/11/2026 and nothing in it says whether the day or the month comes first.

    Days like 30/11/26 never say it: 2030-11-26 is written so, too.
    """
    numeric = [cell for cell in cells if isinstance(cell, str) and _NUMERIC_DATE.fullmatch(cell.strip())]
    return bool(numeric) and _day_first(numeric) is None


def order_shown(cells: Sequence[Cell], role: Role) -> Order | None:
    """The order of its days, or the decimal mark, that a column shows by itself; None when it shows none or several."""
    if role is Role.DATE:
        return {True: Order.DAY_FIRST, False: Order.MONTH_FIRST, None: None}[_day_first(cells)]
    if role in {Role.MONEY, Role.NUMBER}:
        return {".": Order.POINT, ",": Order.COMMA, None: None}[decimal_mark(cells)]
    return None


def could_be_a_day(cell: Cell) -> bool:
    """True for a text like 05/11/2026, whichever of its numbers is the month."""
    match = _NUMERIC_DATE.fullmatch(cell.strip()) if isinstance(cell, str) else None
    return (
        match is not None and 1 <= min(int(match[1]), int(match[3])) <= 12 and max(int(match[1]), int(match[3])) <= 31
    )


_WITH_POINT = re.compile(r"[^\d.,]*-?(?:\d+|\d{1,3}(?:[,'\u2019\s]\d{3})+)\.(?:\d{1,2}|\d{4,})[^\d.,]*")
_GROUPED_POINT = re.compile(r"[^\d.,]*-?\d{1,3}(?:,\d{3})+\.\d+[^\d.,]*")
_WITH_COMMA = re.compile(r"[^\d.,]*-?(?:\d+|\d{1,3}(?:[.'\u2019\s]\d{3})+),(?:\d{1,2}|\d{4,})[^\d.,]*")
_GROUPED_COMMA = re.compile(r"[^\d.,]*-?\d{1,3}(?:\.\d{3})+,\d+[^\d.,]*")


def decimal_mark(cells: Iterable[Cell]) -> str | None:
    """The decimal mark that the column's cells show beyond doubt: 1.204,50 has a comma. None when they do not tell.

    One or two digits behind a mark, or more than three, are decimals; three could be thousands.
    """
    point = comma = False
    for cell in cells:
        if isinstance(cell, str):
            point = point or bool(_WITH_POINT.fullmatch(cell) or _GROUPED_POINT.fullmatch(cell))
            comma = comma or bool(_WITH_COMMA.fullmatch(cell) or _GROUPED_COMMA.fullmatch(cell))
            if point and comma:
                return None
    return "." if point else "," if comma else None


def _refused(typed: str, wanted: str) -> Unreadable:
    return Unreadable(f'"{clipped(typed)}" is not {wanted}', typed, wanted)


def _day_first(cells: Iterable[Cell]) -> bool | None:
    """True or False when the column as a whole fits only one order, None when it fits several or none."""
    first_can_be_month = second_can_be_month = True
    for cell in cells:
        match = _NUMERIC_DATE.fullmatch(cell.strip()) if isinstance(cell, str) else None
        if match:
            if len(match[4]) == _SHORT_YEAR:
                return None
            first_can_be_month &= int(match[1]) <= 12
            second_can_be_month &= int(match[3]) <= 12
    if first_can_be_month == second_can_be_month:
        return None
    return second_can_be_month


_SHORT_YEAR = 2
"""Digits of a year without its century."""
_LAST_OF_2000S = 68


def _year(written: str) -> int:
    """A year; one of two digits is of 1969 to 2068 (POSIX.1-2017, strptime, %y)."""
    year = int(written)
    return year if len(written) > _SHORT_YEAR else year + (2000 if year <= _LAST_OF_2000S else 1900)


def _date(cell: Cell, day_first: bool | None, locale: str) -> Value:
    if is_blank(cell):
        return None
    if isinstance(cell, datetime):
        return cell if cell.time() != time() else cell.date()
    if isinstance(cell, date):
        return cell
    typed = as_written(cell).strip()
    refused = _refused(typed, "a date")
    try:
        if match := _ISO_DATE.fullmatch(typed):
            day = date(int(match[1]), int(match[2]), int(match[3]))
            clock = time.fromisoformat(match[4]) if match[4] else time()
            return datetime.combine(day, clock) if clock != time() else day
        if match := _NUMERIC_DATE.fullmatch(typed):
            first, second, year = int(match[1]), int(match[3]), _year(match[4])
            if day_first is None and (first != second or len(match[4]) == _SHORT_YEAR):
                several = f'"{clipped(typed)}" could be two different days; set the column to day first or month first'
                return Unreadable(several, typed)
            return date(year, second, first) if day_first else date(year, first, second)
        if match := _NAMED_DATE.fullmatch(typed):
            number, name, in_year = (match[1], match[2], match[3]) if match[1] else (match[5], match[4], match[6])
            month = _month_names(locale).get(name.casefold())
            return date(_year(in_year), month, int(number)) if month else refused
    except ValueError:
        return refused
    return refused


_NAMED_DATE = re.compile(
    r"(?:(\d{1,2})(?:st|nd|rd|th)?[ .\-]+([^\W\d_]{3,})\.?[ ,\-]+(\d{4}|\d{2})"
    r"|([^\W\d_]{3,})\.? (\d{1,2})(?:st|nd|rd|th)?,? (\d{4}))"
)


@lru_cache(maxsize=16)
def _month_names(locale: str) -> dict[str, int]:
    """Months by their names and short names in the locale and in English (CLDR)."""
    found: dict[str, int] = {}
    for tag in ("en", locale.replace("-", "_")):
        for width in ("wide", "abbreviated"):
            names = get_month_names(width, locale=tag)
            found |= {str(names[month]).rstrip(".").casefold(): month for month in range(1, 13)}
    return {**found, "sept": 9}


def looks_like_amount(cell: Cell, locale: str) -> bool:
    """True when the cell is a number, with or without a currency sign, and no code with zeros in front."""
    if isinstance(cell, str) and re.match(r"\s*0\d", cell):
        return False
    return isinstance(_number(cell, locale, None, any_sign=True), Decimal)


def percents(cells: Sequence[Cell], locale: str) -> int:
    """How many cells of a column are figures in percent, such as "15.5%"."""
    mark = decimal_mark(cells)
    found = (_number(cell, locale, None, mark=mark) for cell in cells if isinstance(cell, str) and "%" in cell)
    return sum(isinstance(value, Decimal) for value in found)


def looks_like_amount_anywhere(cell: Cell) -> bool:
    """The same in the writing of any locale."""
    if not isinstance(cell, str) or re.match(r"\s*0\d", cell):
        return isinstance(cell, Decimal)
    _, digits = _split_sign(_without_brackets(cell.strip())[0])
    return bool(_DIGITS.fullmatch(digits)) and any(c.isdigit() for c in digits)


def has_currency_sign(cell: Cell) -> bool:
    return isinstance(cell, str) and any(unicodedata.category(c) == "Sc" for c in cell)


@lru_cache(maxsize=64)
def _signs(currency: str) -> frozenset[str]:
    """The ways this currency may stand beside an amount: its ISO 4217 code and CLDR signs, the bare sign included."""
    full = get_currency_symbol(currency, locale="en")
    bare = "".join(c for c in full if unicodedata.category(c) == "Sc")
    initial = currency[0] + bare if bare else full
    return frozenset({currency.upper(), full, bare, initial} - {""})


def _number(cell: Cell, locale: str, currency: str | None, *, any_sign: bool = False, mark: str | None = None) -> Value:
    """A Decimal, or why not.

    Args:
        cell: what stands there.
        locale: whose marks count.
        currency: the only currency whose sign may stand there; None allows none.
        any_sign: allows the sign of any currency.
        mark: the decimal mark of the column, when it is known to be this one.
    """
    if is_blank(cell):
        return None
    what = "an amount" if currency else "a number"
    if isinstance(cell, Decimal):
        return _bounded(cell, clipped(str(cell)), currency) if cell.is_finite() else Unreadable(f"{cell} is not {what}")
    typed = as_written(cell).strip()
    refused = _refused(typed, what)
    if not isinstance(cell, str):
        return refused
    if _PLAIN.fullmatch(typed) and "." not in typed and len(typed) <= _MAX_DIGITS:
        return _bounded(Decimal(typed), typed, currency)
    bare, negative = _without_brackets(typed.replace("\u2212", "-"))
    sign, bare = _split_sign(bare)
    if sign and not any_sign and (currency is None or sign not in _signs(currency)):
        return _refused(typed, f"in {currency}" if currency and bare else what)
    if currency is None and not any_sign and bare.endswith("%"):
        part = _parse(bare[:-1].strip(), locale, mark)
        return refused if part is None else (-part if negative else part).scaleb(-2)
    value = _parse(bare, locale, mark)
    if value is None:
        as_here = f" as {locale} writes them" if _DIGITS.fullmatch(bare) else ""
        return Unreadable(refused.why + as_here, refused.typed, refused.wanted + as_here)
    return _bounded(-value if negative else value, typed, currency)


def _bounded(value: Decimal, typed: str, currency: str | None) -> Value:
    why = too_large(value.adjusted() + 1, money=currency is not None)
    return Unreadable(f'"{clipped(typed)}" {why}', typed) if why else value


def _without_brackets(typed: str) -> tuple[str, bool]:
    """(12.50), 12.50- and -12.50 are negative in the books."""
    if typed.startswith("(") and typed.endswith(")"):
        return typed[1:-1].strip(), True
    if typed.endswith("-"):
        return typed[:-1].strip(), True
    if typed.startswith("-"):
        return typed[1:].strip(), True
    return typed, False


def _split_sign(typed: str) -> tuple[str, str]:
    """The currency's sign or code in front of or behind the digits, and the rest."""
    first = next((i for i, c in enumerate(typed) if c.isdigit() or c in "-.,("), len(typed))
    last = next((i for i in range(len(typed), 0, -1) if typed[i - 1].isdigit()), 0)
    if first >= last:
        return typed, ""
    front, back = typed[:first].strip(), typed[last:].strip()
    sign = front or back
    known = known_currency(sign.upper()) or any(unicodedata.category(c) == "Sc" for c in sign)
    if (front and back) or (sign and not known):
        return "", typed
    return (sign.upper() if sign.isalpha() else sign), typed[first:last]


def _marked(digits: str, mark: str) -> Decimal | None:
    """Digits whose decimal mark is known; the other marks may only stand between groups of three."""
    whole, _, decimals = digits.rpartition(mark) if mark in digits else (digits, "", "")
    if not re.fullmatch(r"\d+|[1-9]\d{0,2}(?:([.,'\u2019\s])\d{3})(?:\1\d{3})*", whole) or mark in whole:
        return None
    if decimals and not decimals.isdecimal():
        return None
    return Decimal(re.sub(r"\D", "", whole) + ("." + decimals if decimals else ""))


def _parse(digits: str, locale: str, mark: str | None = None) -> Decimal | None:
    """Digits with the column's decimal mark, or with the locale's marks (strict CLDR grouping).

    Failing both, the plain form that programs write.
    """
    if not _DIGITS.fullmatch(digits) or len(digits) > _MAX_DIGITS:
        return None
    # .5 is 0.5.
    digits = f"0{digits}" if digits[0] in ".," else digits
    if mark is not None:
        return _marked(digits, mark)
    group = _group_mark(locale)
    if _PLAIN.fullmatch(digits) and group != ".":
        return Decimal(digits)
    if group.isspace():
        # People type a plain space where CLDR has a no-break one.
        digits = re.sub(r"\s", group, digits)
    try:
        return parse_decimal(digits, locale=locale.replace("-", "_"), strict=True)
    except NumberFormatError:
        # Strict reading wants the locale's own shortest form, which "9.20" and "148.00" are not.
        return Decimal(digits) if _PLAIN.fullmatch(digits) else None


@lru_cache(maxsize=64)
def _group_mark(locale: str) -> str:
    return str(get_group_symbol(locale.replace("-", "_")))
