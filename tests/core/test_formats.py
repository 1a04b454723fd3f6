"""How values are written, by table; and what is refused as a format."""

import tomllib
from pathlib import Path

import pytest

from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.tables import table_value, tables_of
from gentle_ledger.core.columns.writing import Writer
from gentle_ledger.core.recipe.format import format_from

CASES = tomllib.loads((Path(__file__).parent / "cases" / "formats.toml").read_text())["case"]


@pytest.mark.parametrize("case", CASES, ids=lambda case: f"{case['format']} {case['value']}")
def test_values_as_they_are_written(case):
    shown = Writer(case["locale"], "CAD").write(table_value(case["value"]), format_from(case["format"]))
    if case["shown"].startswith("! "):
        assert isinstance(shown, Unreadable)
        assert shown.why == case["shown"].removeprefix("! ")
    else:
        assert shown == case["shown"]


def test_signs_are_kept_when_they_are_wanted():
    amount = table_value("1234.5")
    assert Writer("fr-CA", "CAD", plain_signs=False).write(amount, format_from("money")) == "1\u00a0234,50\u00a0$"
    assert Writer("en-CA", "INR", plain_signs=False).write(amount, format_from("money")) == "₹1,234.50"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("cash", "is not a format"),
        ("money XX", "ISO 4217"),
        ("number two", "decimals from 0 to 20"),
        ("percent 21", "decimals from 0 to 20"),
        ("date soon", "or a pattern"),
        ("text loud", "upper, lower or title"),
    ],
)
def test_what_is_no_format_says_why(text, says):
    with pytest.raises(ValueError, match=says):
        format_from(text)


def test_formats_are_kept_in_one_spelling():
    for typed, kept in (("Money usd", "money USD"), ("DATE Long", "date long"), ("number  2", "number 2")):
        assert str(format_from(typed)) == kept


def test_entries_of_a_table_are_what_they_look_like():
    table = tables_of({"Tariff": {"A  x": "14.00", "B": "007", "C": "2026-11-30", "D": "true", "E": "2026-13-40"}})[
        "tariff"
    ]
    assert [type(value).__name__ for value in table.values()] == ["Decimal", "str", "date", "bool", "str"]
    assert next(iter(table)) == "a x"
