"""Cells by role: how they are read and how they stand in a text. Figures are CLDR's, through Babel."""

import tomllib
from decimal import ROUND_HALF_UP, Decimal
from pathlib import Path

import pytest
from babel.numbers import format_currency
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.reading import reader
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.recognise import recognise, recognise_roles
from gentle_ledger.core.columns.writing import Writer, money_rounded
from gentle_ledger.core.recipe.format import Format, FormatKind, usual_format
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.model import Sheet

CASES = tomllib.loads((Path(__file__).parent / "cases" / "reading.toml").read_text())["case"]


@pytest.mark.parametrize("case", CASES, ids=lambda case: f"{case['role']} {case['cell']}")
def test_cells(case):
    role, currency, locale = Role(case["role"]), case.get("currency", "CAD"), case.get("locale", "en-CA")
    value = reader([case["cell"]], role, currency, locale)(case["cell"])
    shown = value if isinstance(value, Unreadable) else Writer(locale, currency).write(value, usual_format(role))
    if "problem" in case:
        assert isinstance(shown, Unreadable)
        assert case["problem"] in shown.why
    else:
        assert shown == case["shown"].replace("\u00a0", " ")


CODES = [
    (Role.MONEY, ["oops"], "cell is something else"),
    (Role.MONEY, ["1.234", "2,50"], "figure in two ways"),
    (Role.MONEY, ["9" * 16], "figure too large"),
    (Role.DATE, ["2026-02-30"], "cell is something else"),
    (Role.DATE, ["3/4/2026"], "day in two ways"),
    (Role.DATE, ["46000"], "number of days"),
    (Role.DATE, ["0026-11-30"], "day of another age"),
    (Role.TEXT, ["#REF!"], "cell is an error"),
    (Role.NUMBER, [Decimal(10**15)], "cell may have lost digits"),
]


@pytest.mark.parametrize(("role", "cells", "code"), CODES, ids=[code for _, _, code in CODES])
def test_programs_know_by_a_code_why_a_cell_cannot_be_read(role, cells, code):
    found = reader(cells, role, "CAD", "en-CA")(cells[0])
    assert found.reason.code == code
    assert found.asks is code.endswith("two ways")
    answered = reader(["12.345"], Role.MONEY, "CAD", "en-CA", Order.POINT)("12.345")
    assert (answered.reason.code, answered.asks) == ("figure with three decimals", False)


@given(st.decimals(-10_000_000, 10_000_000, places=4))
def test_money_is_rounded_half_away_from_zero(amount):
    """Python's own decimal arithmetic is the yardstick."""
    digits = Writer("en-CA", "CAD").write(amount, Format(FormatKind.MONEY)).replace("$", "").replace(",", "")
    expected = amount.quantize(Decimal("0.01"), ROUND_HALF_UP)
    assert Decimal(digits) == expected
    assert (digits[0] == "-") == (expected < 0)


ROLES = [
    ("Mobile", ["902-555-0101", "x"], Role.MOBILE),
    ("Tel.", [Decimal(19025550101), Decimal(19025550102)], Role.MOBILE),
    ("Where to", ["+19025550101", "902 555 0102"], Role.MOBILE),
    ("Holder", ["Ines Okafor", "Bo Li"], Role.NAME),
    ("First name", ["Ines", None], Role.NAME),
    ("Due", ["186.40", "12"], Role.MONEY),
    ("Paid", [Decimal("60"), None], Role.MONEY),
    ("Misc", ["$5.00", "$6.10"], Role.MONEY),
    ("Owing", ["1 204,50", "12,5", "88"], Role.MONEY),
    ("Payable", ["05/11/2026", "06/11/2026"], Role.DATE),
    ("Payable", ["05/11/2026", "soon"], Role.TEXT),
    ("Length (m)", ["12.1", "oops"], Role.NUMBER),
    ("Rate code", ["007", "012"], Role.REFERENCE),
    ("Charge", ["as agreed", "1,5"], Role.TEXT),
    ("Due date", ["2026-11-30", "2026-12-01"], Role.DATE),
    ("kWh", ["74", "118"], Role.NUMBER),
    ("Discount rate", ["12,5 %", "5 %"], Role.NUMBER),
    ("Share", ["15.5%", "0.5"], Role.NUMBER),
    ("Due", ["186.40"] * 9 + ["5%"], Role.MONEY),
    ("Pay link", ["https://pay.saltmarsh.example/a"], Role.LINK),
    ("Berth", ["A01", "C14"], Role.REFERENCE),
    ("Slot", ["A01", "C14"], Role.TEXT),
    ("Account no", ["1042", "1043"], Role.REFERENCE),
    ("Code", ["007", "012"], Role.REFERENCE),
    ("Locker code", ["12-03-45", "11-08-81"], Role.REFERENCE),
    ("Since", ["12-03-45", "11-08-81"], Role.DATE),
    ("Tag", ["007", "012"], Role.TEXT),
    ("Note", ["pays by cheque", None], Role.TEXT),
    ("Empty", [None, None], Role.TEXT),
    ("Due date", ["20261130", "20261201"], Role.DATE),
    ("Due", ["20261130", "20261201"], Role.DATE),
    ("Due", ["20261131", "20261232"], Role.MONEY),
    ("Due date", ["46356", "46357"], Role.DATE),
    ("Slot", ["46356", "46357"], Role.NUMBER),
    ("Due day", ["46", "15"], Role.NUMBER),
    ("Due date", ["31/11/2026", "30-11-206", "0000-00-00"], Role.DATE),
    ("Moment", ["31/11/2026", "30/11/2026", "29/11/2026", "28/11/2026"], Role.DATE),
    ("Version", ["31.11.26", "40.50.60"], Role.TEXT),
    ("Fee year", ["2026", "2025"], Role.NUMBER),
    ("Deposit no", ["1042", "1043"], Role.REFERENCE),
    ("Deposit #", ["1042", "1043"], Role.REFERENCE),
    ("Due day", ["15", "30"], Role.NUMBER),
    ("Charge code", ["12", "13"], Role.REFERENCE),
    ("Payment plan", ["3", "6"], Role.NUMBER),
    ("Rate", ["14.00", "12.50"], Role.NUMBER),
    ("Rate", ["$14.00", "$12.50"], Role.MONEY),
    ("Due in days", ["30", "14"], Role.NUMBER),
    ("Season fee", ["250", "300"], Role.MONEY),
    ("Total berths", ["12", "3"], Role.NUMBER),
    ("Total kWh", ["118", "74"], Role.NUMBER),
    ("Cost centre", ["4010", "4020"], Role.NUMBER),
    ("Fee year (FY)", ["2026", "2025"], Role.NUMBER),
    ("Due (CAD)", ["250", "300"], Role.MONEY),
    ("Dues Nov", ["250", "300"], Role.MONEY),
    ("Balance brought forward", ["250", "300"], Role.MONEY),
    ("Balance last seen", ["250.00", "300.00"], Role.MONEY),
    ("Misc", ["CAD 12", "CAD 13"], Role.MONEY),
    ("Balance", ["12.00", "paid", "42.00", "n/a", "7.50"], Role.MONEY),
    ("Fees for the year", ["250.00", "300.00"], Role.MONEY),
    ("Total due", ["250", "300"], Role.MONEY),
    ("Balance", ["12.00", "paid", "42.00 CR", "n/a", "7.50", "8"], Role.MONEY),
    ("Balance", ["see note", "paid", "42.00", "n/a"], Role.TEXT),
    ("Due", ["1.250", "paid", "12.5", "ask"], Role.MONEY),
    ("Balance", ["paid", "42.00", "n/a", "7.50", "ask", "paid"], Role.MONEY),
    ("Balance", ["paid", "42", "n/a", "7", "ask", "paid"], Role.TEXT),
    ("Charge", ["A", "B", "12", "C", "14"], Role.TEXT),
    ("Betrag", ["12.00", "paid", "42.00", "7.50"], Role.NUMBER),
    ("Misc", ["1.234,50", "87,5", "200,00"], Role.NUMBER),
    ("Owing", ["1.234,50", "87,5", "200,00"], Role.MONEY),
    ("Sent on", ["Tue, 3 Nov 2026", "4 Nov 2026 14:05"], Role.DATE),
    ("Country", ["CA", "SE", "Sweden", "?"], Role.COUNTRY),
    ("Key", ["'00041", "'00042", "'00043"], Role.TEXT),
    ("Pays", ["Canada", "Su\u00e8de", "Norv\u00e8ge"], Role.COUNTRY),
    ("Home country", ["Canada", "Sweden", "Norway"], Role.COUNTRY),
    ("Flag", ["Canada", "Sweden", "Norway"], Role.TEXT),
    ("Country of registration", ["Canada", "Sweden", "Norway"], Role.TEXT),
    ("Where", ["CA", "SE", "NO"], Role.TEXT),
    ("First name", ["Jordan", "Chad"], Role.NAME),
    ("Country", ["fields", "woods"], Role.TEXT),
]


@pytest.mark.parametrize(("header", "cells", "role"), ROLES, ids=[case[0] for case in ROLES])
def test_roles(header, cells, role):
    sheet = Sheet((header,), [(cell,) for cell in cells])
    assert recognise_roles(sheet, "CA", "en-CA") == (role,)


def test_only_one_column_is_the_mobile_number():
    sheet = Sheet(("Phone", "Mobile"), [("902-555-0101", "902-555-0102")])
    assert recognise_roles(sheet, "CA", "en-CA") == (Role.TEXT, Role.MOBILE)


LOCALES = ("en-CA", "fr-CA", "de-DE", "de-CH", "sv-SE", "hi-IN", "ar-EG", "ja-JP", "en-IN", "pt-PT", "pl-PL")


@given(st.decimals(-(10**9), 10**9, places=3), st.sampled_from(LOCALES), st.sampled_from(["CAD", "JPY", "KWD", "INR"]))
def test_amounts_are_written_as_babel_writes_them(amount, locale, currency):
    """The shape learned from a few of Babel's amounts gives what Babel gives for every other."""
    rounded = money_rounded(amount, currency)
    expected = format_currency(rounded, currency, locale=locale.replace("-", "_"))
    assert Writer(locale, currency, plain_signs=False).write(amount, Format(FormatKind.MONEY)) == expected


UNSEEN = [
    # a cell, its role, and what goes into the texts
    ("Pa\u00adid\u200b", Role.TEXT, "Paid"),
    ("Ines\u00a0Okafor\ufeff", Role.NAME, "Ines Okafor"),
    ("\u200eC\u200b14", Role.REFERENCE, "C14"),
    ("https://pay.saltmarsh.example/\u200ba\u200d", Role.LINK, "https://pay.saltmarsh.example/a"),
    (
        "\u0646\u0645\u06cc\u200c\u062e\u0648\u0627\u0647\u0645\u200f",
        Role.NAME,
        "\u0646\u0645\u06cc\u200c\u062e\u0648\u0627\u0647\u0645\u200f",
    ),
    ("two\nlines", Role.TEXT, "two\nlines"),
    ("a  b", Role.TEXT, "a  b"),
]


@pytest.mark.parametrize(("cell", "role", "read"), UNSEEN)
def test_marks_that_cannot_be_seen_go_into_no_text_but_where_a_script_needs_them(cell, role, read):
    assert reader([cell], role, "CAD", "en-CA")(cell) == read


def test_each_number_keeps_its_own_digits():
    writer = Writer("en-CA", "CAD")
    assert [writer.write(Decimal(text), Format(FormatKind.NUMBER)) for text in ("9.2", "9.20", "9")] == [
        "9.2",
        "9.20",
        "9",
    ]
    assert [writer.write(value, None) for value in (True, Decimal(1))] == ["TRUE", "1"]


def test_a_recognised_role_comes_with_what_tells_so():
    rows = [("902-555-0101", "1.50", "2026-11-30", "x"), ("902-555-0102", "oops", "2026-11-29", "y")]
    rows += [("902-555-0103", "$2.25", "2026-11-28", None)]
    sheet = Sheet(("Mobile", "Due", "Paid on", "Note"), rows)
    verdicts = recognise(sheet, "CA", "en-CA")
    assert [verdict.role for verdict in verdicts] == [Role.MOBILE, Role.MONEY, Role.DATE, Role.TEXT]
    assert verdicts[1].evidence == "its name says money, and 2 of 3 cells are amounts"
    assert verdicts[3].evidence == ""


def test_a_bare_figure_among_percents_is_held_unless_it_is_a_share():
    cells = ["15%", "10%", "12%", "8%", "9%", "7.5%", "11%", "200%", "15", Decimal(15), "0.15", Decimal(1)]
    sheet = Sheet(("Mobile", "Share"), [(f"902-555-01{i:02}", cell) for i, cell in enumerate([*cells, *cells[:8]])])
    found = compute_round(sheet, Recipe(wording="Your share is {Share}"))
    held = [row for row, mark in enumerate(found.marks) if mark == "Held"]
    assert held == [8, 9]
    assert "has no % behind it" in found.reason(8)
    assert [found.texts[row] for row in (10, 11)] == ["Your share is 15%", "Your share is 100%"]
