"""Worked figures of the trade, and working days against `calendar` and `holidays`. Each says where it comes from."""

import calendar
from datetime import date, timedelta
from decimal import Decimal

import holidays
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.formulas.starting_points import STARTING_POINTS
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.sheets.model import Sheet

POINTS = {point.key: point for point in STARTING_POINTS}
HOLIDAYS = sorted(holidays.country_holidays("CA", subdiv="NS", years=range(2025, 2029)))


def worked_out(formula, **cells):
    """A formula over one row of numbers and days."""
    columns = {name.replace("_", " "): cell for name, cell in cells.items()}
    roles = {name: Role.DATE if isinstance(cell, date) else Role.NUMBER for name, cell in columns.items()}
    recipe = Recipe(
        as_of=date(2026, 11, 24),
        columns={name: ColumnSettings(role=role) for name, role in roles.items()},
        lookups={"Holidays": {day.isoformat(): "free" for day in HOLIDAYS}},
    )
    return evaluate(Readings(Sheet(tuple(columns), [tuple(columns.values())])), recipe).evaluation.bound(formula)(0)


CENT = Decimal("0.01")
FIGURES = [
    # Wikipedia, "Mortgage calculator": $200,000 at 6.5% over 30 years is $1,264.14 a month (from memory).
    ("ROUND(-PMT(6.5% / 12; 360; 200000); 2)", {}, "1264.14"),
    # The example that help pages of spreadsheets give: 8% over 10 months on 10,000 is 1,037.03 a month (from memory).
    ("ROUND(PMT(8% / 12; 10; 10000); 2)", {}, "-1037.03"),
    # 2/10 net 30 forgone costs 37.2% a year simple and 44.6% compounded: corporate finance textbooks (from memory).
    ("ROUND(2% / 98% * 365 / 20; 3)", {}, "0.372"),
    ("ROUND((1 + 2% / 98%) ^ (365 / 20) - 1; 3)", {}, "0.446"),
    # 2/10 net 30 on $1,000: $980 within ten days, $1,000 after. Common practice, no source.
    (POINTS["discount"].formula, {"Invoice_date": date(2026, 11, 14), "Amount": Decimal(1000)}, "980"),
    (POINTS["discount"].formula, {"Invoice_date": date(2026, 11, 13), "Amount": Decimal(1000)}, "1000"),
    # 1.5% a month on $400, 60 days late, is $12.00; nothing within the days of grace. Common practice, no source.
    (POINTS["late percent"].formula, {"Due_date": date(2026, 9, 25), "Amount": Decimal(400)}, "12"),
    (POINTS["late percent"].formula, {"Due_date": date(2026, 11, 14), "Amount": Decimal(400)}, "0"),
    (POINTS["late percent"].formula, {"Due_date": None, "Amount": None}, "0"),
    (POINTS["late flat"].formula, {"Due_date": date(2026, 11, 13), "Amount": Decimal(400)}, "25"),
    (POINTS["late flat"].formula, {"Due_date": date(2026, 11, 13), "Amount": Decimal(0)}, "0"),
    (POINTS["overdue"].formula, {"Due_date": date(2026, 11, 20)}, "4"),
    (POINTS["overdue"].formula, {"Due_date": date(2026, 11, 30)}, "0"),
    (POINTS["metered"].formula, {"Metered": Decimal(118)}, "36.58"),
    (POINTS["readings"].formula, {"Reading_before": Decimal(1200), "Reading_now": Decimal(1318)}, "36.58"),
    (POINTS["tiers"].formula, {"Metered": Decimal(150)}, "44.5"),
    (POINTS["tiers"].formula, {"Metered": Decimal(80)}, "24.8"),
    # 14% is Nova Scotia's harmonized sales tax since April 2025 (from memory): 114.00 holds 14.00 of it.
    (POINTS["tax included"].formula, {"Amount": Decimal(114)}, "14"),
    (POINTS["tax added"].formula, {"Amount": Decimal(100)}, "114"),
    (POINTS["balance"].formula, {"Charges": Decimal("205.98"), "Paid": None}, "205.98"),
]


@pytest.mark.parametrize(("formula", "cells", "expected"), FIGURES, ids=lambda value: str(value)[:40])
def test_worked_figures(formula, cells, expected):
    assert worked_out(formula, **cells) == Decimal(expected)


def test_a_due_date_from_terms():
    assert worked_out(POINTS["due date"].formula, Invoice_date=date(2026, 11, 24)) == date(2026, 12, 24)


@given(st.decimals(0, 100_000, places=2))
def test_instalments_add_up_to_the_whole(amount):
    """Equal instalments with the odd cent on the first: the sum is exact, and no two differ by three cents."""
    first = worked_out(POINTS["first instalment"].formula, Amount=amount)
    each = worked_out(POINTS["further instalment"].formula, Amount=amount)
    assert first + 2 * each == amount
    assert 0 <= first - each < 3 * CENT


DAYS = st.dates(date(2025, 1, 1), date(2028, 12, 31))


def is_working_day(day):
    return day.weekday() <= calendar.FRIDAY and day not in HOLIDAYS


@given(DAYS, DAYS)
def test_working_days_are_those_of_the_calendar(start, end):
    """Counted one by one over Python's calendar, with Nova Scotia's holidays as the `holidays` package has them."""
    found = worked_out('NETWORKDAYS({Start}; {End}; "Holidays")', Start=start, End=end)
    first, last = min(start, end), max(start, end)
    counted = sum(is_working_day(first + timedelta(days=i)) for i in range((last - first).days + 1))
    assert found == (counted if start <= end else -counted)


@given(st.dates(date(2026, 1, 1), date(2027, 12, 31)), st.integers(-200, 200))
def test_a_working_day_so_many_later(start, steps):
    found = worked_out('WORKDAY({Start}; {Steps}; "Holidays")', Start=start, Steps=Decimal(steps))
    day, left = start, abs(steps)
    while left:
        day += timedelta(days=1 if steps > 0 else -1)
        left -= is_working_day(day)
    assert found == day


@given(DAYS, DAYS)
def test_days_between_dates_are_pythons(start, end):
    assert worked_out("{End} - {Start}", Start=start, End=end) == (end - start).days
    assert worked_out("{Start} + DAYS({End}; {Start})", Start=start, End=end) == end
