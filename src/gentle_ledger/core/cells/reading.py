"""Reading a cell by its column's role: amounts and numbers as Decimal, days as dates, the rest as it stands."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, tzinfo
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.days import (
    FIRST_YEAR,
    LAST_YEAR,
    basic_day,
    day_of_number,
    in_range,
    reading_of_days,
    written_day,
)
from gentle_ledger.core.cells.figures import (
    Written,
    has_thousandths,
    order_of,
    plainly_with_point,
    reading_of,
    signs_of,
    written,
)
from gentle_ledger.core.cells.invisible import as_read, visible, without_apostrophe
from gentle_ledger.core.cells.order import DAYS, MOMENTS, Order, Reading, answer_for
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.spreadsheet_errors import NEVER_WORKED_OUT, is_fault
from gentle_ledger.core.cells.unreadable import Unreadable, said_too_large, too_large
from gentle_ledger.core.cells.words import clipped

Value = str | Decimal | date | bool | Unreadable | None
"""What a cell is read as or computed to. None is a blank cell."""

_KEPT_DIGITS = 15
"""Digits of a number that a workbook keeps (IEEE 754 binary64, as spreadsheets show it)."""


def _meant(typed: str, wanted: str, meant: str) -> str:
    day = date.fromisoformat(meant)
    number = f"a spreadsheet's number of days: {day:%b} {day.day}, {day.year}?"
    return f'"{typed}" is not {wanted}, but {number}'


def _three(typed: str, grouped: str | None, currency: str) -> str:
    either = f" is {grouped}, or" if grouped else ""
    return f'"{typed}"{either} has three decimals, which {currency} lacks'


NOT_SO = reason_kind("cell is something else", '"{typed}" is not {wanted}')
NEVER_COMPUTED = reason_kind(
    "cell never worked out", "its formula was never worked out: save the workbook in the spreadsheet program"
)
SPREADSHEET_ERROR = reason_kind("cell is an error", '"{typed}" is an error of the spreadsheet')
DIGITS_LOST = reason_kind(
    "cell may have lost digits",
    f'"{{typed}}" has more than {_KEPT_DIGITS} digits, and a workbook keeps no more: put it in the sheet as text',
)
TWO_FIGURES = reason_kind(
    "figure in two ways", '"{typed}" could be read in two ways; say how the column writes its figures'
)
TWO_DAYS = reason_kind("day in two ways", '"{typed}" could be two different days; say which comes first in the column')
TWO_CLOCKS = reason_kind(
    "day by two clocks",
    '"{typed}" is a moment of another day here; say whether it stands for a day, or write that alone',
)
THREE_DECIMALS = reason_kind("figure with three decimals", _three)
TOO_LARGE = reason_kind("figure too large", lambda typed, money: said_too_large(f'"{typed}"', money))
NUMBER_OF_DAYS = reason_kind("number of days", _meant)
NO_PERCENT = reason_kind("figure without a percent sign", '"{typed}" has no % behind it, and nearly all others have')
YEAR_AWAY = reason_kind(
    "day of another age",
    f'"{{typed}}" is a day of the year {{year}}, outside {FIRST_YEAR} to {LAST_YEAR}',
)

_FIGURES = frozenset({Role.MONEY, Role.NUMBER})


def column_reading(
    cells: Sequence[Cell], role: Role, currency: str, locale: str, said: Order | None = None, office: tzinfo = UTC
) -> Reading:
    """How a column as a whole writes its figures or its days; nothing to tell for the other roles.

    Args:
        cells: all of them.
        role, currency, locale: what they are read for.
        said: the clerk's answer to how it writes them, where there is one.
        office: the zone by whose clocks moments of other zones are read.
    """
    said = answer_for(role, said)
    if role in _FIGURES:
        return reading_of(cells, currency if role is Role.MONEY else None, locale, said)
    return reading_of_days(cells, locale, office, said) if role is Role.DATE else Reading()


def reader(
    cells: Sequence[Cell], role: Role, currency: str, locale: str, said: Order | None = None, office: tzinfo = UTC
) -> Callable[[Cell], Value]:
    """How a cell of this column is read by its role; see `column_reading`."""
    return read_by(column_reading(cells, role, currency, locale, said, office), role, currency, locale, office)


def read_by(reading: Reading, role: Role, currency: str, locale: str, office: tzinfo = UTC) -> Callable[[Cell], Value]:
    """The same where it is known how the column is read. Cells that its question is about cannot be read."""
    read = _read_by(reading, role, currency, locale, office)

    def without_faults(cell: Cell) -> Value:
        if isinstance(cell, str) and is_fault(cell):
            if cell == NEVER_WORKED_OUT:
                return Unreadable(NEVER_COMPUTED(), cell)
            return Unreadable(SPREADSHEET_ERROR(typed=clipped(cell)), cell, "a value")
        if isinstance(cell, Decimal) and cell.adjusted() >= _KEPT_DIGITS and cell == cell.to_integral_value():
            typed = as_written(cell)
            return Unreadable(DIGITS_LOST(typed=clipped(typed)), typed)
        return read(cell)

    return without_faults


def _read_by(reading: Reading, role: Role, currency: str, locale: str, office: tzinfo) -> Callable[[Cell], Value]:
    if role in _FIGURES:
        how = _Figures(
            reading.order or order_of(locale),
            asked=bool(reading.question),
            answered=reading.answered,
            currency=currency if role is Role.MONEY else None,
            thousandths=role is Role.NUMBER or has_thousandths(currency),
        )
        return lambda cell: _figure(cell, how)
    if role is Role.DATE:
        return lambda cell: _date(cell, reading, locale, office)
    return _link if role is Role.LINK else _as_it_stands


def _as_it_stands(cell: Cell) -> Value:
    if is_blank(cell):
        return None
    return cell if isinstance(cell, bool) else as_read(as_written(cell))


def _link(cell: Cell) -> Value:
    """An address: nothing unseen has a place in it."""
    return None if is_blank(cell) else visible(as_written(cell))


def _refused(typed: str, wanted: str) -> Unreadable:
    return Unreadable(NOT_SO(typed=clipped(typed), wanted=wanted), typed, wanted)


@dataclass(frozen=True, slots=True)
class _Figures:
    """How the figures of a column are read.

    Attributes:
        order: the column's decimal mark.
        asked: whether it is still a question.
        answered: whether the clerk has said so.
        currency: that of a column of money, whose sign may stand there; None for other figures.
        thousandths: whether there may be three decimals.
    """

    order: Order
    asked: bool
    answered: bool
    currency: str | None
    thousandths: bool


def _figure(cell: Cell, how: _Figures) -> Value:
    """A Decimal, or why not."""
    currency = how.currency
    if isinstance(cell, str) and how.order is Order.POINT and not how.asked and plainly_with_point(cell):
        return Decimal(cell)
    if is_blank(cell):
        return None
    what = "an amount" if currency else "a number"
    if isinstance(cell, Decimal):
        typed = clipped(str(cell))
        return _bounded(cell, typed, currency) if cell.is_finite() else Unreadable(NOT_SO(typed=typed, wanted=what))
    typed = as_written(cell).strip()
    found = written(cell) if isinstance(cell, str) else None
    if found is None:
        return _refused(typed, what)
    if found.sign and (currency is None or found.sign not in signs_of(currency)):
        return _refused(typed, f"in {currency}" if currency else what)
    if found.percent and currency:
        return _refused(typed, what)
    return _marked(found, typed, how, what)


def _marked(found: Written, typed: str, how: _Figures, what: str) -> Value:
    """The figure by its marks, as its column has them."""
    currency, order = how.currency, how.order
    if how.asked and found.mark:
        return Unreadable(TWO_FIGURES(typed=clipped(typed)), typed, asks=True)
    under = found.order_under(order) if how.answered or order is Order.EACH else order
    value = found.value(under) if found.mark else _either(found)
    if value is None and order is Order.EACH:
        return Unreadable(TWO_FIGURES(typed=clipped(typed)), typed)
    if value is None:
        return _refused(typed, f"{what} with a {order}")
    value = value.scaleb(-2) if found.percent else value
    said = how.answered and under is order
    if under and found.doubtful(under, thousandths=how.thousandths, answered=said) and not _beyond(value, currency):
        grouped = str(value.scaleb(3)) if found.grouped else None
        return Unreadable(THREE_DECIMALS(typed=clipped(typed), grouped=grouped, currency=currency), typed)
    return _bounded(value, typed, currency)


def _either(found: Written) -> Decimal | None:
    """The value of a figure with several marks or none, which can be read in one way only."""
    return found.comma if found.point is None else found.point


def _bounded(value: Decimal, typed: str, currency: str | None) -> Value:
    if not _beyond(value, currency):
        return value
    return Unreadable(TOO_LARGE(typed=clipped(typed), money=currency is not None), typed)


def _beyond(value: Decimal, currency: str | None) -> bool:
    return too_large(value.adjusted() + 1, money=currency is not None)


def amount_in(typed: str, currency: str, locale: str) -> Decimal | None:
    """The figure a single text is, with the locale's marks, the currency's sign or "%"; None for what is none."""
    found = written(typed)
    value = found.value(order_of(locale)) if found else None
    if found is None or value is None or (found.sign and found.sign not in signs_of(currency)):
        return None
    return value.scaleb(-2) if found.percent else value


def _date(cell: Cell, how: Reading, locale: str, office: tzinfo) -> Value:
    if is_blank(cell):
        return None
    order = how.order
    if isinstance(cell, date):
        day: date | None = cell.date() if isinstance(cell, datetime) and cell.time() == time() else cell
    else:
        typed = as_written(cell).strip()
        found = written_day(typed, locale) if isinstance(cell, str) else None
        under = found.order_under(order) if found and order and how.answered else order
        if found and found.open and None not in found.days and under not in DAYS:
            return Unreadable(TWO_DAYS(typed=clipped(typed)), typed, asks=bool(how.question))
        if found and order not in MOMENTS and found.doubtful(office):
            return Unreadable(TWO_CLOCKS(typed=clipped(typed)), typed, asks=bool(how.question))
        day = found.value(under, office) if found else basic_day(typed) if isinstance(cell, (str, Decimal)) else None
    if day is None:
        wanted = f"a date with the {order}" if found and order else "a date"
        meant = day_of_number(typed)
        if meant is None:
            return _refused(typed, wanted)
        return Unreadable(NUMBER_OF_DAYS(typed=clipped(typed), wanted=wanted, meant=meant.isoformat()), typed, wanted)
    if in_range(day):
        return day
    typed = as_written(cell).strip()
    return Unreadable(YEAR_AWAY(typed=clipped(typed), year=day.year), typed)


def looks_like_amount(cell: Cell) -> bool:
    """True when the cell is a number, in any writing and with or without a currency's sign; no code with zeros."""
    if isinstance(cell, str):
        found = written(cell)
        return found is not None and not found.percent and not _leads_with_zero(cell)
    return isinstance(cell, Decimal)


def is_whole(cell: Cell) -> bool:
    """Whether a cell that looks like an amount has no decimals and no currency's sign."""
    if isinstance(cell, str):
        found = written(cell)
        return found is not None and not found.sign and found.point == found.comma
    return isinstance(cell, Decimal) and cell == cell.to_integral_value()


def _leads_with_zero(cell: str) -> bool:
    start = without_apostrophe(cell.strip())[:2]
    return start[:1] == "0" and start[1:].isdigit()


def percents(cells: Sequence[Cell]) -> int:
    """How many cells of a column are figures in percent, such as "15.5%"."""
    return sum((found := written(cell)) is not None and found.percent for cell in cells if _has_percent(cell))


def among_percents(read: Callable[[Cell], Value]) -> Callable[[Cell], Value]:
    """How a cell is read where nearly all others are in percent: a bare 15 among them is hardly 1,500%."""

    def in_percent(cell: Cell) -> Value:
        value = read(cell)
        if isinstance(value, Decimal) and abs(value) > 1 and not _has_percent(cell):
            return Unreadable(NO_PERCENT(typed=clipped(as_written(cell))), as_written(cell))
        return value

    return in_percent


def _has_percent(cell: Cell) -> bool:
    return isinstance(cell, str) and "%" in cell


def has_currency_sign(cell: Cell) -> bool:
    """Whether a currency's sign or code stands beside the cell's figure."""
    found = written(cell) if isinstance(cell, str) else None
    return found is not None and bool(found.sign)
