"""The formula language: values and errors by table, every function by its own examples, and what no formula can do."""

import tomllib
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.formulas.functions import BY_NAME, FUNCTIONS
from gentle_ledger.core.formulas.parse import MOST_CHARACTERS, FormulaError
from gentle_ledger.core.formulas.patterns import written
from gentle_ledger.core.formulas.values import ERRORS, MOST_TEXT, Fault, Wrong, wrong_of
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.sheets.model import Sheet

CASES = tomllib.loads((Path(__file__).parent / "cases" / "formulas.toml").read_text())
CELLS = {
    "Length": ("12.10", Role.NUMBER),
    "Class": ("B", Role.TEXT),
    "Metered": (Decimal(118), Role.NUMBER),
    "Paid": (None, Role.MONEY),
    "Due date": ("2026-11-30", Role.DATE),
    "Boat": ("Grey Heron", Role.TEXT),
    "Code": ("007", Role.REFERENCE),
    "Slot": ("oops", Role.NUMBER),
    "Sent": (datetime.fromisoformat("2026-11-24T14:30"), Role.DATE),
}
SHEET = Sheet(tuple(CELLS), [tuple(cell for cell, _ in CELLS.values())])
RECIPE = Recipe(
    as_of=date(2026, 11, 24),
    columns={name: ColumnSettings(role=role) for name, (_, role) in CELLS.items()},
    lookups={
        "Tariff": {"A": "14.00", "B": "12.50"},
        "Holidays": {"2026-12-25": "Christmas", "2026-12-28": "Boxing Day", "2027-01-01": "New Year"},
    },
)
COLUMNS = evaluate(Readings(SHEET), RECIPE).evaluation


def computed(**formulas):
    settings = {name.replace("_", " "): ColumnSettings(formula=formula) for name, formula in formulas.items()}
    return evaluate(Readings(SHEET), RECIPE.model_copy(update={"columns": {**RECIPE.columns, **settings}})).evaluation


def outcome(formula):
    """What a formula comes to in the row, or its error."""
    try:
        return COLUMNS.bound(formula)(0)
    except FormulaError as fault:
        return fault
    except ERRORS as fault:
        return wrong_of(fault)


def value(formula):
    """What a formula comes to, or the name of its error."""
    found = outcome(formula)
    if isinstance(found, FormulaError):
        raise found
    return str(found.code) if isinstance(found, Wrong) else found


@pytest.mark.parametrize("case", CASES["case"], ids=lambda case: case["formula"])
def test_formulas_over_a_row(case):
    if "fails" in case:
        assert case["fails"] in outcome(case["formula"]).why
    else:
        found, expected = value(case["formula"]), value(case["is"])
        assert type(found) is type(expected)
        assert found == expected or abs(found - expected) < Decimal("1e-20")


EDGES = tomllib.loads((Path(__file__).parent / "cases" / "functions.toml").read_text())["case"]


@pytest.mark.parametrize("case", EDGES, ids=lambda case: case["formula"])
def test_edges_of_the_functions(case):
    if case["is"] == "refused":
        assert isinstance(outcome(case["formula"]), FormulaError)
        return
    wanted = case["is"] if case["is"].startswith("#") else value(case["is"])
    found = value(case["formula"])
    assert type(found) is type(wanted)
    assert found == wanted or (isinstance(found, Decimal) and abs(found - wanted) < Decimal("1e-20"))


@pytest.mark.parametrize("case", CASES["error"], ids=lambda case: case["formula"])
def test_errors_point_at_the_place(case):
    found = computed(Circle=case["formula"]).problems[len(CELLS)]
    assert [found.start, found.end] == case["at"]
    assert case["says"] in found.sentence


@pytest.mark.parametrize("function", FUNCTIONS, ids=lambda function: function.name)
def test_every_function_does_what_its_examples_say(function):
    assert function.doc
    assert function.examples
    for formula, expected in function.examples:
        assert f"{function.name}(" in formula
        wanted = expected if expected.startswith("#") else value(expected)
        found = value(formula)
        assert type(found) is type(wanted)
        assert found == wanted


ASKED_FOR = """IF IFS SWITCH AND OR NOT XOR TRUE FALSE IFERROR IFNA ISBLANK NEEDED ISNUMBER ISTEXT ISERROR ABS SIGN
INT MOD ROUND
ROUNDUP ROUNDDOWN CEILING FLOOR MROUND MIN MAX SUM AVERAGE COUNT COUNTA PRODUCT POWER SQRT DATE DATEVALUE TODAY
YEAR MONTH DAY WEEKDAY DAYS EDATE EOMONTH NETWORKDAYS WORKDAY YEARFRAC DATEDIF CONCATENATE TEXTJOIN LEFT RIGHT MID
LEN UPPER PLURAL
LOWER PROPER TRIM CLEAN SUBSTITUTE REPLACE FIND SEARCH REPT EXACT TEXT VALUE CHAR UNICHAR CODE UNICODE PMT ENCODEURL
FROMTABLE"""


def test_all_functions_are_there():
    assert set(BY_NAME) == set(ASKED_FOR.split())


def test_a_circle_is_named():
    found = computed(Due="{Late} + 1", Late="{Fee} * 2", Fee="{Due}")
    sentence = next(iter(found.problems.values())).sentence
    assert "Due, Late and Fee are computed from one another: Due → Late → Fee → Due." in sentence
    for name in ("Due", "Late", "Fee"):
        assert found.columns.position(name) in found.problems, "each of them is a way into the circle"
        cell = found.column(found.columns.position(name)).values[0]
        assert isinstance(cell, Fault)
        assert "cannot be used" in cell.why


def test_what_only_reads_a_circle_is_no_part_of_it():
    found = computed(Due="{Late} + 1", Late="{Due}", Twice="{Due} * 2", Self="{Self} + 1", Plain="2 * 3")
    wrong = {found.columns.names[position]: problem for position, problem in found.problems.items()}
    assert set(wrong) == {"Due", "Late", "Self"}
    assert wrong["Late"].sentence.startswith("Late and Due are computed from one another: Late → Due → Late.")
    assert wrong["Self"].what == "Self is computed from itself."
    assert (wrong["Due"].start, wrong["Due"].end) == (0, 6)
    assert found.column(found.columns.position("Plain")).values[0] == 6
    assert "formula of Due cannot be used" in found.column(found.columns.position("Twice")).values[0].why


def test_an_error_in_one_row_is_that_rows_alone():
    sheet = Sheet(("Length", "Mobile"), [("12", "902-555-0101"), ("oops", "902-555-0102"), ("7", "902-555-0103")] * 9)
    columns = evaluate(Readings(sheet), Recipe(columns={"Due": ColumnSettings(formula="{Length} * 2")})).evaluation
    values = columns.column(2).values
    assert (values[0], values[2]) == (24, 14)
    assert "Length is 'oops', not a number" in values[1].why


@pytest.mark.parametrize(
    ("formula", "says"),
    [
        ("1" + "+1" * MOST_CHARACTERS, "at most 2,000"),
        ("(" * 61 + "1" + ")" * 61, "levels deep"),
        ("-" * 61 + "1", "levels deep"),
        ("1" + "+1" * 600, "at most 500"),
    ],
)
def test_formulas_are_bounded(formula, says):
    with pytest.raises(FormulaError, match=says):
        COLUMNS.bound(formula)


def test_what_a_round_keeps_is_bounded():
    cell = computed(Long='REPT("ab"; 600)').column(len(CELLS)).values[0]
    assert "1,200 characters; at most 1,000" in cell.why
    for many in (
        {"lookups": {"T": {str(i): "1" for i in range(1_001)}}},
        {"leave_out": [{"when": "1", "reason": "x"}] * 51},
    ):
        with pytest.raises(ValueError, match="at most"):
            Recipe.model_validate(many)


def test_columns_built_on_columns_are_bounded():
    deep = "(" * 40 + "{X}" + ")" * 40
    chain = {f"C{i}": deep.replace("X", f"C{i - 1}" if i else "Length") for i in range(9)}
    found = computed(**chain)
    assert "more than 200 levels" in found.problems[len(CELLS) + 4].sentence
    assert found.column(len(CELLS) + 3).values[0] == Decimal("12.1")


_PIECES = st.sampled_from(
    [f"{name}(" for name in sorted(BY_NAME)]
    + [f"{{{name}}}" for name in CELLS]
    + [
        "+",
        "-",
        "*",
        "/",
        "^",
        "%",
        "&",
        "=",
        "<>",
        "<",
        ">=",
        "(",
        ")",
        ";",
        ",",
        '"',
        '"7"',
        '"m"',
        "1",
        "9e9",
        "0.31",
    ]
)


@given(st.one_of(st.text(max_size=60), st.lists(_PIECES, max_size=25).map("".join)))
def test_any_text_ends_in_a_value_or_a_clear_error(formula):
    found = outcome(formula)
    if isinstance(found, FormulaError):
        assert 0 <= found.start <= found.end <= max(len(formula), 1)
        assert found.what.endswith(".")
    elif isinstance(found, Wrong):
        assert found.why
    else:
        assert found is None or isinstance(found, (Decimal, str, bool, date))
        assert not isinstance(found, str) or len(found) <= MOST_TEXT
        assert not isinstance(found, Decimal) or found.is_finite()


_NUMBERS = st.decimals(-(10**6), 10**6, places=3)


@given(_NUMBERS, _NUMBERS, st.integers(0, 3))
def test_rounding_is_decimal_and_half_away_from_zero(left, right, decimals):
    """Python's own decimal arithmetic is the yardstick."""
    found = value(f"ROUND(({left}) + ({right}); {decimals})")
    assert found == (left + right).quantize(Decimal(1).scaleb(-decimals), rounding="ROUND_HALF_UP")


PIECES = [
    *"0#?.,%/@;Ee+-dmyhsDMYHS[]\"\\_* ()$'AapGw:T",
    "General",
    "am/pm",
    "[h]",
    "[Red]",
    "E+00",
    "#,##0",
    "[$€-407]",
]
VALUES = [Decimal("1234.567"), Decimal(0), Decimal("-0.5"), date(2026, 11, 30), "abc", Decimal("1E20")]


@given(st.lists(st.sampled_from(PIECES), min_size=1, max_size=9).map("".join), st.sampled_from(VALUES))
def test_a_pattern_writes_something_or_says_why_not(pattern, value):
    def said():
        try:
            return written(value, pattern, "en-CA")
        except ERRORS as fault:
            return wrong_of(fault).why or None

    assert isinstance(said(), str)
