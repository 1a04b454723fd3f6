"""How a column writes its figures and days is told by all its cells together; what stays open is asked, and held."""

import tomllib
from datetime import date, timedelta
from decimal import Decimal
from pathlib import Path

import pytest
from babel.dates import format_date
from babel.numbers import format_decimal
from hypothesis import given, settings
from hypothesis import strategies as st

from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.reading import column_reading, reader
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.pace.civil import zone_named

CASES = tomllib.loads((Path(__file__).parent / "cases" / "columns.toml").read_text())["case"]


@pytest.mark.parametrize("case", CASES, ids=lambda case: " ".join(case["cells"])[:40])
def test_columns(case):
    role, currency, locale = Role(case.get("role", "money")), case.get("currency", "CAD"), case.get("locale", "en-CA")
    cells = [Decimal(cell[1:]) if cell.startswith("#") else cell for cell in case["cells"]]
    answer, office = Order(case["answer"]) if "answer" in case else None, zone_named(case.get("office", "UTC"))
    found = column_reading(cells, role, currency, locale, answer, office)
    assert case.get("asked", "") in found.question
    assert bool(found.question) == bool(case.get("asked"))
    if answer is None:
        assert found.order == (Order(case["order"]) if "order" in case else None)
    assert answer not in {order for order, _ in found.answers} <= {*Order}
    read = reader(cells, role, currency, locale, answer, office)
    assert [_said(read(cell)) for cell in cells] == case["values"]


def _said(value):
    return "" if isinstance(value, Unreadable) else "blank" if value is None else as_written(value)


def test_a_question_says_what_each_answer_would_make_of_its_cells():
    found = column_reading(["1,234", "12,50"], Role.MONEY, "CAD", "en-CA")
    assert found.answers == (
        (Order.POINT, "“1,234” is 1234 and “12,50” is 12.50"),
        (Order.COMMA, "“1,234” is held and “12,50” is 12.50"),
        (Order.EACH, "“1,234” is held and “12,50” is 12.50"),
    )
    alone = column_reading(["1.234"], Role.MONEY, "CAD", "en-CA")
    assert [order for order, _ in alone.answers] == [Order.POINT, Order.COMMA], "by itself it is neither"
    days = column_reading(["05/11/2026"], Role.DATE, "CAD", "en-CA")
    assert [then for _, then in days.answers] == ["“05/11/2026” is Nov 5, 2026", "“05/11/2026” is May 11, 2026"]


def test_the_evidence_is_counted():
    found = column_reading(["1.234,50", "87,5", "7"], Role.MONEY, "CAD", "en-CA")
    assert found.said == "“1.234,50” is read as 1234.50: 2 cells can be read in this way only."
    assert column_reading(["7", "8"], Role.MONEY, "CAD", "en-CA").said == ""


NATIONAL = ("en-CA", "fr-CA", "de-DE", "de-CH", "en-IN", "pt-BR", "sv-SE", "en-US")
"""Whose figures and days are written by CLDR, through Babel: what is read is checked against what that wrote."""
MARKS = ["\u200b", "\u00ad", "\u200e", "\ufeff"]
SPACES = ["", " ", "\u00a0", "\u202f", "\u3000", "\t"]
NOISE = ["paid", "n/a", "-", "see 3,4", "", "?", "12,3,4", "1.2.3", "ask Bo"]


@st.composite
def noisy(draw, meant, write, slips):
    """Cells as written in one national way, with up to a fifth of noise, and what each was meant to be."""
    truths = draw(st.lists(meant, min_size=5, max_size=40))
    cells = [write(value) for value in truths]
    for place in range(0, len(cells), 5):
        kind = draw(st.sampled_from(["word", "mark", "space", "slip", "as it is"]))
        if kind == "word":
            cells[place], truths[place] = draw(st.sampled_from(NOISE)), None
        elif kind == "mark":
            at = draw(st.integers(0, len(cells[place])))
            cells[place] = cells[place][:at] + draw(st.sampled_from(MARKS)) + cells[place][at:]
        elif kind == "space":
            cells[place] = f"{draw(st.sampled_from(SPACES))}{cells[place]}{draw(st.sampled_from(SPACES))}"
        elif kind == "slip" and place == 0:
            cells[place] = draw(st.sampled_from(slips))(truths[place])
    return cells, truths


def never_otherwise(cells, truths, role, currency, home):
    """Right, or held: never another value; and nothing but noise is held unless there is a question."""
    read = reader(cells, role, currency, home)
    asked = column_reading(cells, role, currency, home).question
    for cell, truth in zip(cells, truths, strict=True):
        value = read(cell)
        if truth is None:
            assert value is None or isinstance(value, Unreadable), (cell, cells)
        else:
            assert value == truth or (asked and isinstance(value, Unreadable)), (cell, truth, cells)


def _figures(locale):
    tag = locale.replace("-", "_")
    return lambda value: format_decimal(value, locale=tag, decimal_quantization=False)


AMOUNTS = st.decimals(0, 99_999, places=2) | st.integers(0, 99_999).map(Decimal)


@settings(max_examples=500)
@given(st.data(), st.sampled_from(NATIONAL), st.sampled_from(NATIONAL))
def test_no_amount_is_read_as_another(data, locale, home):
    slips = [_figures("de-DE"), _figures("en-US"), str, lambda value: f"${value:,.2f}"]
    never_otherwise(*data.draw(noisy(AMOUNTS, _figures(locale), slips)), Role.MONEY, "CAD", home)


DAYS = st.integers(0, 700).map(lambda days: date(2026, 1, 1) + timedelta(days=days))
WAYS = ["dd/MM/y", "MM/dd/y", "d.M.y", "y-MM-dd", "y/MM/dd", "d MMM y", "MMM d, y", "EEE d MMMM y"]


@settings(max_examples=500)
@given(st.data(), st.sampled_from(WAYS), st.sampled_from(NATIONAL))
def test_no_day_is_read_as_another(data, way, home):
    def write(value):
        return format_date(value, way, locale="en")

    slips = [date.isoformat, lambda value: format_date(value, "d MMMM y", locale="en")]
    never_otherwise(*data.draw(noisy(DAYS, write, slips)), Role.DATE, "CAD", home)
