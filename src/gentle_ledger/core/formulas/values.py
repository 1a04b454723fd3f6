"""The values of a formula, how one becomes another, and what goes wrong between them.

A value is a `Cell`: number, text, day, day and time, true or false, blank. Dates are a type of their own, not numbers
of days. Conversions follow OpenFormula (ODF 1.3 part 4, 6.3), except that a blank cell is never a date and that text is
never ranked against a number: both would bill a wrong amount without a word.
"""

import decimal
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from enum import StrEnum

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.invisible import alike, compared, in_order, visible
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.cells.words import clipped

MOST_TEXT = 10_000
"""Characters a text within a formula may have."""
MOST_IN_A_CELL = 1_000
"""Characters its end result may have: a round keeps one in every row."""

WORK = decimal.Context(
    prec=34,
    rounding=decimal.ROUND_HALF_EVEN,
    Emin=-99,
    Emax=99,
    traps=[decimal.DivisionByZero, decimal.InvalidOperation, decimal.Overflow],
)
"""Arithmetic at the 34 digits of IEEE 754 decimal128, within what can be written out."""

_SETTLE = decimal.Context(prec=28, rounding=decimal.ROUND_HALF_UP, Emin=-99, Emax=99)

ZERO = Decimal(0)
ONE = Decimal(1)

_PLAIN_NUMBER = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d{1,2})?")
_ISO_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


class Code(StrEnum):
    """The kinds of error a formula can end in, by their names in OpenFormula (ODF 1.3 part 4, 4.7)."""

    DIVISION = "#DIV/0!"
    VALUE = "#VALUE!"
    NUMBER = "#NUM!"
    NOT_AVAILABLE = "#N/A"


class Wrong(Exception):
    """A formula has no value in this row.

    Args:
        code: the kind of error.
        why: part of a sentence, without a full stop: "Length is 'oops', not a number".
        column: the column at fault, when one is.
    """

    def __init__(self, code: Code, why: str, column: str | None = None) -> None:
        super().__init__(why)
        self.code = code
        self.why = why
        self.column = column


ERRORS = (Wrong, decimal.DecimalException)
"""What working a formula out may raise; `wrong_of` makes a Wrong of either."""


def wrong_of(fault: Exception) -> Wrong:
    """The error of a row: arithmetic that has no result is one as well."""
    if isinstance(fault, Wrong):
        return fault
    signals = fault.args[0] if fault.args else ()
    if isinstance(fault, decimal.DivisionByZero) or decimal.DivisionUndefined in signals:
        return Wrong(Code.DIVISION, "a division by 0")
    if isinstance(fault, decimal.Overflow):
        return Wrong(Code.NUMBER, "the number is too large")
    return Wrong(Code.NUMBER, "there is no result for these numbers")


FORMULA_ERROR = reason_kind("formula error", "{why}")
"""A formula's errors have codes of their own, those of OpenFormula: see `Fault.code`."""


@dataclass(frozen=True, slots=True)
class Fault(Unreadable):
    """A computed cell that came to an error; `column` is the column at fault, when one is."""

    code: Code = Code.VALUE
    column: str | None = None


def fault_of(code: Code, why: str, column: str | None = None, *, typed: str = "", wanted: str = "") -> Fault:
    """A Fault with its reason; see `Wrong` for what they are made of."""
    return Fault(FORMULA_ERROR(why=why), typed, wanted, code=code, column=column)


def settled(number: Decimal) -> Decimal:
    """A number without the last few digits of the work, so that 1/3*3 is 1 before it is compared, cut or rounded."""
    return _SETTLE.plus(number)


def whole(number: Decimal) -> int:
    """A number cut to a whole one, for what is counted: places, months, times."""
    return int(settled(number))


def plain(number: Decimal) -> str:
    """A number with just the digits it needs: 2.50 is "2.5", 1E+3 is "1000"."""
    text = format(number, "f")
    return text.rstrip("0").rstrip(".") if "." in text else text


def not_a(wanted: str, value: Cell, said: str | None) -> Wrong:
    """The error of a value of the wrong type; `said` is the column it came from, if it came straight from one."""
    if value is None:
        return Wrong(Code.VALUE, f"{said or 'a value'} is blank, not {wanted}", said)
    shown = f"'{clipped(as_text(value))}'"
    if said is not None:
        return Wrong(Code.VALUE, f"{said} is {shown}, not {wanted}", said)
    return Wrong(Code.VALUE, f"{shown} is not {wanted}")


def number_in(text: str) -> Decimal | None:
    """The number a text is, written plainly ("12.5", "1E5"), or None."""
    stripped = visible(text)
    return Decimal(stripped) if len(stripped) <= 40 and _PLAIN_NUMBER.fullmatch(stripped) else None


def as_number(value: Cell, said: str | None = None) -> Decimal:
    """Blank is 0, true is 1, a text that is plainly a number is that number."""
    if isinstance(value, Decimal):
        return value
    if value is None:
        return ZERO
    if isinstance(value, bool):
        return ONE if value else ZERO
    if isinstance(value, str) and (found := number_in(value)) is not None:
        return found
    raise not_a("a number", value, said)


def as_counted(value: Cell, said: str | None = None) -> Decimal | None:
    """A number for a sum or an average: blank does not count."""
    return None if value is None else as_number(value, said)


def as_ordered(value: Cell, said: str | None = None) -> Decimal | date | None:
    """A number or a day for the smallest or the largest: blank does not count."""
    if isinstance(value, date):
        return value
    return as_counted(value, said)


def as_text(value: Cell, said: str | None = None) -> str:
    """Numbers as they are, without grouping; days in ISO 8601; blank is no text at all."""
    if isinstance(value, str):
        return value
    if value is None:
        return ""
    if isinstance(value, bool):
        return "TRUE" if value else "FALSE"
    if isinstance(value, Decimal):
        return plain(value)
    if isinstance(value, datetime):
        return value.isoformat(sep=" ", timespec="minutes")
    return value.isoformat()


_TRUTHS = {"true": True, "false": False}


def as_truth(value: Cell, said: str | None = None) -> bool:
    """A number is true unless it is 0; blank is false; text only where it says TRUE or FALSE, in any case."""
    if isinstance(value, bool):
        return value
    if isinstance(value, str) and (said_so := _TRUTHS.get(compared(value))) is not None:
        return said_so
    if value is None:
        return False
    if isinstance(value, Decimal):
        return value != 0
    raise not_a("true or false", value, said)


def as_day(value: Cell, said: str | None = None) -> date:
    """A day, with its time if it has one; text only in ISO 8601."""
    if isinstance(value, date):
        return value
    if isinstance(value, str) and _ISO_DAY.fullmatch(visible(value)):
        try:
            return date.fromisoformat(visible(value))
        except ValueError:
            raise not_a("a date", value, said) from None
    raise not_a("a date", value, said)


def as_any(value: Cell, said: str | None = None) -> Cell:
    """Any value as it is."""
    return value


def as_needed(value: Cell, said: str | None = None) -> Cell:
    """Any value but a blank one."""
    if value is None:
        raise Wrong(Code.NOT_AVAILABLE, f"{said or 'a cell'} is blank, and is needed here", said)
    return value


def day_of(value: date) -> date:
    """The day without its time."""
    return value.date() if isinstance(value, datetime) else value


def bounded(text: str) -> str:
    """Raises Wrong when a text is longer than a formula may make it."""
    if len(text) > MOST_TEXT:
        raise too_long(len(text))
    return text


def too_long(length: int, most: int = MOST_TEXT) -> Wrong:
    """The error of a text that has too many characters."""
    return Wrong(Code.VALUE, f"the text would have {length:,} characters; at most {most:,} are made")


def moved(day: date, days: Decimal) -> date:
    """The day that many days later, with its time: half a day after a mere day is noon of it.

    A sum that falls on a midnight is a mere day (OpenFormula: a date is a number of days there; ODF 1.3 part 4, 4.3).
    """
    whole_days = math.floor(settled(days))
    part = WORK.multiply(settled(days) - whole_days, Decimal(86_400_000_000))
    start = day if isinstance(day, datetime) else datetime.combine(day, time())
    try:
        found = start + timedelta(days=whole_days, microseconds=int(part.to_integral_value()))
    except OverflowError:
        raise Wrong(Code.NUMBER, "the date falls outside the years 1 to 9999") from None
    return found if found.time() != time() else found.date()


def days_between(end: date, start: date) -> Decimal:
    """`end` minus `start` in days, with a fraction when one of them has a time."""
    if isinstance(end, datetime) or isinstance(start, datetime):
        seconds = (_moment(end) - _moment(start)).total_seconds()
        return WORK.divide(Decimal(str(seconds)), Decimal(86_400))
    return Decimal((end - start).days)


def _moment(day: date) -> datetime:
    moment = day if isinstance(day, datetime) else datetime.combine(day, time())
    return moment.replace(tzinfo=None)


def equal(left: Cell, right: Cell) -> bool:
    """OpenFormula `=`: texts in any case; blank equals 0, "" and false; different types are never equal, so that a text
    is no number even where it looks like one (6.4.7).

    Text that says TRUE or FALSE is what a text file has for it, and equals it; so does a day in ISO 8601.
    """
    if left is None or right is None:
        other = right if left is None else left
        return other is None or other == "" or (not isinstance(other, (str, date)) and not other)
    if isinstance(left, Decimal) and isinstance(right, Decimal):
        return left == right or settled(left) == settled(right)
    if isinstance(left, str) and isinstance(right, str):
        return left == right or alike(left) == alike(right)
    if isinstance(left, bool) or isinstance(right, bool):
        return _truth_in(left) is _truth_in(right)
    if isinstance(left, date) or isinstance(right, date):
        left_day, right_day = _day_in(left), _day_in(right)
        return left_day is not None and right_day is not None and _moment(left_day) == _moment(right_day)
    return False


def _truth_in(value: Cell) -> Cell:
    return _TRUTHS.get(compared(value), value) if isinstance(value, str) else value


def _day_in(value: Cell) -> date | None:
    try:
        return as_day(value)
    except Wrong:
        return None


def before(left: Cell, right: Cell, said: Sequence[str | None] = (None, None)) -> bool:
    """OpenFormula `<` within one type. Across types it is an error: no row may be billed by such an accident."""
    if isinstance(left, bool) or isinstance(right, bool):
        raise _unranked(left, right, said)
    if isinstance(left, date) or isinstance(right, date):
        return _moment(as_day(left, said[0])) < _moment(as_day(right, said[1]))
    if isinstance(left, str) and isinstance(right, str):
        return in_order(left) < in_order(right)
    if isinstance(left, str) and right is None:
        return False
    if isinstance(right, str) and left is None:
        return right != ""
    return settled(as_number(left, said[0])) < settled(as_number(right, said[1]))


def _unranked(left: Cell, right: Cell, said: Sequence[str | None]) -> Wrong:
    value, name = (left, said[0]) if isinstance(left, bool) else (right, said[1])
    return not_a("something to rank", value, name)


def settled_for_good(value: Cell) -> Cell:
    """The end result of a formula: a number loses the digits of the work and the zeros behind its point."""
    if isinstance(value, Decimal):
        number = _SETTLE.plus(value).normalize(WORK)
        return number.quantize(ONE, context=_WIDE) if "E+" in str(number) else number
    if isinstance(value, str) and len(value) > MOST_IN_A_CELL:
        raise too_long(len(value), MOST_IN_A_CELL)
    return value


_WIDE = decimal.Context(prec=110)
