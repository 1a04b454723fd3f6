"""Reading a cell by its column's role: amounts and numbers as Decimal, days as dates, the rest as it stands."""

import re
import unicodedata
from collections.abc import Callable, Iterable, Sequence
from datetime import date, datetime, time
from decimal import Decimal
from functools import lru_cache

from babel.numbers import NumberFormatError, get_currency_symbol, get_group_symbol, parse_decimal

from gentle_ledger.core.formats import known_currency
from gentle_ledger.core.sheets.model import Cell, as_written, is_blank
from gentle_ledger.core.values import Role, Unreadable
from gentle_ledger.core.words import clipped

Value = str | Decimal | date | bool | Unreadable | None
"""What a cell is read as or computed to. None is a blank cell."""

_PLAIN = re.compile(r"[+-]?\d+(?:\.\d+)?")
_DIGITS = re.compile(r"[\d.,'\u2019\s]+")
_ISO_DATE = re.compile(
    r"(\d{4})-(\d{1,2})-(\d{1,2})(?:[T ](?:(\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?))?)?(?:Z|[+-]\d{2}:\d{2})?"
)
_NUMERIC_DATE = re.compile(r"(\d{1,2})([/.\-])(\d{1,2})\2(\d{4})")
_MAX_DIGITS = 30


def reader(cells: Sequence[Cell], role: Role, currency: str, locale: str) -> Callable[[Cell], Value]:
    """How a cell of this column is read by its role.

    Days come from date cells, ISO 8601 text, and 24/11/2026 or 11/24/2026 where the column as a whole leaves no doubt
    which of the two it is.
    """
    if role is Role.MONEY:
        return lambda cell: _number(cell, locale, currency)
    if role is Role.NUMBER:
        return lambda cell: _number(cell, locale, None)
    if role is Role.DATE:
        day_first = _day_first(cells)
        return lambda cell: _date(cell, day_first)
    return lambda cell: None if is_blank(cell) else as_written(cell).strip()


def _refused(typed: str, wanted: str) -> Unreadable:
    return Unreadable(f'"{clipped(typed)}" is not {wanted}', typed, wanted)


def _day_first(cells: Iterable[Cell]) -> bool | None:
    """True or False when the column as a whole fits only one order, None when it fits both or neither."""
    first_can_be_month = second_can_be_month = True
    for cell in cells:
        match = _NUMERIC_DATE.fullmatch(cell.strip()) if isinstance(cell, str) else None
        if match:
            first_can_be_month &= int(match[1]) <= 12
            second_can_be_month &= int(match[3]) <= 12
    if first_can_be_month == second_can_be_month:
        return None
    return second_can_be_month


def _date(cell: Cell, day_first: bool | None) -> Value:
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
            first, second, year = int(match[1]), int(match[3]), int(match[4])
            if day_first is None and first != second:
                return Unreadable(f'"{clipped(typed)}" could be two different days; write it as {year}-MM-DD', typed)
            return date(year, second, first) if day_first else date(year, first, second)
    except ValueError:
        return refused
    return refused


def looks_like_amount(cell: Cell, locale: str) -> bool:
    """True when the cell is a number, with or without a currency sign, and no code with zeros in front."""
    if isinstance(cell, str) and re.match(r"\s*0\d", cell):
        return False
    return isinstance(_number(cell, locale, None, any_sign=True), Decimal)


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


def _number(cell: Cell, locale: str, currency: str | None, *, any_sign: bool = False) -> Value:
    """A Decimal, or why not. `currency` names the only currency whose sign may stand there; None allows none."""
    if is_blank(cell):
        return None
    what = "an amount" if currency else "a number"
    if isinstance(cell, Decimal):
        return cell if cell.is_finite() else Unreadable(f"{cell} is not {what}")
    typed = as_written(cell).strip()
    refused = _refused(typed, what)
    if not isinstance(cell, str):
        return refused
    if _PLAIN.fullmatch(typed) and "." not in typed and len(typed) <= _MAX_DIGITS:
        return Decimal(typed)
    bare, negative = _without_brackets(typed.replace("\u2212", "-"))
    sign, bare = _split_sign(bare)
    if sign and not any_sign and (currency is None or sign not in _signs(currency)):
        return _refused(typed, f"in {currency}" if currency and bare else what)
    value = _parse(bare, locale)
    if value is None:
        as_here = f" as {locale} writes them" if _DIGITS.fullmatch(bare) else ""
        return Unreadable(refused.why + as_here, refused.typed, refused.wanted + as_here)
    return -value if negative else value


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


def _parse(digits: str, locale: str) -> Decimal | None:
    """Digits with the locale's marks (strict CLDR grouping); failing that, the plain form programs write."""
    if not _DIGITS.fullmatch(digits) or len(digits) > _MAX_DIGITS:
        return None
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
