"""How a computed cell came about, in a line."""

from datetime import date

import pytest

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.display import CellExplainer
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.formulas.explain import unit_of
from gentle_ledger.core.formulas.starting_points import STARTING_POINTS
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.sheets.model import Sheet

NAMES = ("Length (m)", "Metered (kWh)", "Rate", "Paid", "Class", "Due date", "Slot")
ROW = ("12.10", "118", "14.00", None, "B", "2026-11-20", "oops")
ROLES = (Role.NUMBER, Role.NUMBER, Role.MONEY, Role.MONEY, Role.TEXT, Role.DATE, Role.NUMBER)


def line(formula, wanted="money"):
    settings = {name: ColumnSettings(role=role) for name, role in zip(NAMES, ROLES, strict=True)}
    settings["Out"] = ColumnSettings(formula=formula, format=wanted)
    recipe = Recipe(as_of=date(2026, 11, 24), columns=settings, lookups={"Tariff": {"B": "12.50"}})
    columns = evaluate(Readings(Sheet(NAMES, [ROW])), recipe)
    return CellExplainer(columns.evaluation).explained(len(NAMES), 0)


@pytest.mark.parametrize(
    ("formula", "wanted", "expected"),
    [
        (
            "{Length (m)} * {Rate} + {Metered (kWh)} * 0.31 - {Paid}",
            "money",
            "12.10 m × $14.00 + 118 kWh × $0.31 − $0.00 = $205.98",
        ),
        ("ROUND({Length (m)} * 14; 2)", "money", "12.10 m × 14 = $169.40"),
        ("ROUND({Length (m)} / 7; 3)", "number", "12.10 m ÷ 7, rounded to 3 decimals = 1.729"),
        ('{Length (m)} * FROMTABLE("Tariff"; {Class})', "money", "12.10 m × $12.50 = $151.25"),
        (
            "IF(TODAY() > {Due date}; 25.00; 0)",
            "money",
            "$25.00 (because 2026-11-24 > Nov 20, 2026 is true) = $25.00",
        ),
        ("IF({Paid} > 0; 1; 2)", "number", "2 (because $0.00 > 0 is not true) = 2"),
        ("IF({Paid} > 0; 1)", "text", "FALSE (because $0.00 > 0 is not true) = FALSE"),
        ("-({Length (m)} + 1%)", "number", "−(12.10 m + 1%) = -12.11"),
        ('{Class} & "-14"', "text", '"B" & "-14" = B-14'),
        ("MAX(0; {Length (m)})", "number", "MAX(0; 12.10 m) = 12.1"),
    ],
)
def test_a_cell_explains_itself(formula, wanted, expected):
    assert line(formula, wanted) == expected


@pytest.mark.parametrize("formula", ["{Slot} * 2", "{Length (m)", "1/0"])
def test_what_has_no_value_has_nothing_to_explain(formula):
    assert line(formula) is None


def test_a_long_sum_is_cut_short():
    explained = line(" + ".join(["{Length (m)}"] * 60), "number")
    assert len(explained) < 330
    assert explained.endswith("… = 726")


@pytest.mark.parametrize(
    ("name", "unit"),
    [
        ("Length (m)", "m"),
        ("Use [kWh]", "kWh"),
        ("Due (2026)", ""),
        ("Due", ""),
        ("Rate ($/m)", "$/m"),
        ("A (b) c", ""),
    ],
)
def test_units_stand_in_the_columns_name(name, unit):
    assert unit_of(name) == unit


def test_starting_points_take_the_columns_that_fit():
    names = ("Invoice no", "Invoiced on", "Payable", "Fees", "Received", "LOA", "Category", "Used kWh")
    roles = (Role.REFERENCE, Role.DATE, Role.DATE, Role.MONEY, Role.MONEY, Role.NUMBER, Role.TEXT, Role.NUMBER)
    filled = {point.key: point.filled(names, roles) for point in STARTING_POINTS}
    assert filled["balance"] == "{Fees} - {Received}"
    assert filled["due date"] == "{Invoiced on} + 30"
    assert filled["overdue"] == "MAX(0; TODAY() - {Payable})"
    assert filled["late flat"] == "IF({Amount} > 0; IF(TODAY() > {Payable} + 10; 25.00; 0); 0)", "no column is overdue"
    late = next(point for point in STARTING_POINTS if point.key == "late percent")
    arrears = late.filled(
        ("Due", "Arrears", "Due date", "Arrears since"), (Role.MONEY, Role.MONEY, Role.DATE, Role.DATE)
    )
    assert arrears.startswith("IF({Arrears} > 0; IF(TODAY() > {Arrears since} + 10;")
    assert filled["tariff"] == 'ROUND({LOA} * FROMTABLE("Tariff"; {Category}); 2)'
    assert filled["metered"] == "ROUND({Used kWh} * 0.31; 2)"
    assert filled["readings"] == "ROUND(({Reading now} - {Reading before}) * 0.31; 2)", (
        "what is not there keeps its name"
    )


def test_every_starting_point_says_what_it_is():
    assert len({point.key for point in STARTING_POINTS}) == len(STARTING_POINTS)
    for point in STARTING_POINTS:
        assert point.about.endswith(".")
        assert all(f"{{{slot.name}}}" in point.formula for slot in point.slots)
