"""Columns kept from one change to the next: nothing is worked out twice, and nothing is stale."""

from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns import evaluation
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.model import ColumnSettings, LeaveOutRule, Recipe
from gentle_ledger.core.recipe.toml import recipe_from_toml
from gentle_ledger.core.rounds.compute import Computed, compute_round
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.core.wording.renaming import renamed
from gentle_ledger.core.wording.uses import unmatched

SHEET = Sheet(
    ("Name", "Mobile", "Length", "Paid"),
    [(f"P{i}", f"902-555-01{i:02}", str(i + 5), "1" if i % 3 else None) for i in range(40)],
)
RECIPE = recipe_from_toml(
    """
wording = "{Name}: {Due}, {Late}. {Link}"
[columns."Due"]
formula = "{Length} * 14 - {Paid}"
format = "money"
[columns."Late"]
formula = "{Due} * 1.5%"
format = "money"
[columns."Link"]
template = "https://pay.saltmarsh.example/{Name}{?Due}"
[columns."Idle"]
formula = "1 / 0"
"""
)


@pytest.fixture
def worked(monkeypatch):
    """Counts how many cells are worked out."""
    found = []
    before = evaluation._worked_out
    monkeypatch.setattr(evaluation, "_worked_out", lambda evaluate, row: (found.append(row), before(evaluate, row))[1])
    return found


def test_a_changed_wording_works_no_formula_out_again(worked):
    readings = Readings(SHEET)
    compute_round(SHEET, RECIPE, readings=readings)
    assert len(worked) == 3 * 40, "and the column that nothing uses is not worked out at all"
    worked.clear()
    compute_round(SHEET, RECIPE.model_copy(update={"wording": "{Name} {Late} {Link}!"}), readings=readings)
    assert not worked


def test_a_changed_formula_works_out_what_comes_from_it_only(worked):
    readings = Readings(SHEET)
    compute_round(SHEET, RECIPE, readings=readings)
    worked.clear()
    compute_round(SHEET, RECIPE.with_column("Late", ColumnSettings(formula="{Due} * 2%")), readings=readings)
    assert len(worked) == 40
    worked.clear()
    compute_round(SHEET, RECIPE.with_column("Due", ColumnSettings(formula="{Length} * 15")), readings=readings)
    assert len(worked) == 3 * 40


def test_a_formula_that_is_tried_for_one_row_works_out_that_row(worked):
    found = evaluate(Readings(SHEET), RECIPE)
    found.evaluation.column(found.columns.position("late")).shown[7]
    assert worked == [7, 7], "the column and the one it builds on"


CELLS = st.sampled_from(["7", "12,5", "12.5", "oops", None, "902-555-0199", "902-555-01", "P7", "1.204,50"])
MENDS = st.lists(st.tuples(st.integers(0, 39), st.integers(0, 3), CELLS), min_size=1, max_size=4)


@settings(max_examples=40)
@given(MENDS)
def test_mending_cells_gives_what_reading_all_anew_gives(mends):
    rows = list(SHEET.rows)
    readings = Readings(SHEET)
    compute_round(SHEET, RECIPE, readings=readings)
    for row, column, cell in mends:
        rows[row] = (*rows[row][:column], cell, *rows[row][column + 1 :])
        readings = readings.after(Sheet(SHEET.columns, list(rows)), [(row, column)])
        sheet = readings.sheet
        found, anew = compute_round(sheet, RECIPE, readings=readings), compute_round(sheet, RECIPE)
        assert (found.texts, found.marks, found.numbers) == (anew.texts, anew.marks, anew.numbers)
        assert [found.reason(r) for r in range(40)] == [anew.reason(r) for r in range(40)]


@pytest.mark.parametrize(
    ("before", "now"),
    [("12", "13"), (Decimal("1.50"), Decimal("1.5")), (True, Decimal(1)), ("1", Decimal(1)), (None, ""), ("a", None)],
)
def test_another_version_of_a_sheet_reads_anew_what_differs_and_nothing_else(before, now):
    """Cells that count as equal may still be written in two ways; the column beside them keeps what was read of it."""
    columns, beside = ("Due", "Name"), Decimal("2.50")
    readings = Readings(Sheet(columns, [(before, beside), ("7", "Bo")]))
    kept = [readings.values(position, Role.TEXT, Recipe()) for position in (0, 1)]
    brought = readings.brought_to(Sheet(columns, [(now, Decimal("2.50")), ("7", "Bo")]))
    assert brought.values(0, Role.TEXT, Recipe()) is not kept[0]
    assert brought.values(1, Role.TEXT, Recipe()) is kept[1]
    assert brought.sheet.rows[0][0] is now
    for other in (Sheet(columns, [(before, beside)]), Sheet(("Due", "Names"), list(readings.sheet.rows))):
        assert readings.brought_to(other).values(1, Role.TEXT, Recipe()) is not kept[1]


_PIECES = ["{Name}", "{Due}", "{Late}", "{Link}", "{Paid}", "{Idle}", "100% ", "{{", "%s", "text ", "\n"]
WORDINGS = st.lists(st.sampled_from(_PIECES), max_size=6).map("".join)


@given(WORDINGS, st.sampled_from([None, "nothing"]))
def test_texts_made_at_a_stroke_are_those_made_one_by_one(wording, fallback):
    recipe = RECIPE.model_copy(update={"wording": wording}).with_column("Paid", ColumnSettings(fallback=fallback))
    composer = Composer(Readings(SHEET), recipe)
    assert composer.texts() == [composer.text(row) for row in range(40)]


def test_the_entries_of_a_column_are_the_same_singly_and_together():
    calls = []
    entries = ByRow(5, lambda row: (calls.append(row), row * row)[1])
    assert entries[3] == 9
    assert entries.whole() == [0, 1, 4, 9, 16]
    assert entries.whole() == [0, 1, 4, 9, 16]
    assert sorted(calls) == [0, 1, 2, 3, 4]
    again = entries.anew([1, 2], lambda row: -row)
    assert again.whole() == [0, -1, -2, 9, 16]
    assert entries[1] == 1


def test_renaming_a_column_is_carried_into_all_that_uses_it():
    rule = LeaveOutRule(when="{due} <= 0", reason="nothing")
    recipe = renamed(RECIPE.model_copy(update={"leave_out": (rule,), "combine": None}), "Due", "To pay")
    assert recipe.wording == "{Name}: {To pay}, {Late}. {Link}"
    assert list(recipe.columns) == ["To pay", "Late", "Link", "Idle"]
    assert recipe.columns["Late"].formula == "{To pay} * 1.5%"
    assert recipe.columns["Link"].template == "https://pay.saltmarsh.example/{Name}{?To pay}"
    assert recipe.leave_out[0].when == "{To pay} <= 0"
    assert compute_round(SHEET, recipe).marks == compute_round(SHEET, RECIPE).marks


RENAMED = [
    # before, after; a column Due is called To pay
    ("formula", "{Due} + {due}*2 - {Due date}", "{To pay} + {To pay}*2 - {Due date}"),
    ("formula", '"{Due}" & {Due}', '"{Due}" & {To pay}'),
    ("formula", '"a ""{Due}"" b" & { Due }', '"a ""{Due}"" b" & {To pay}'),
    ("formula", "{Due} +", "{Due} +"),
    ("template", "https://a.example/{Due}{?Due,Name}", "https://a.example/{To pay}{?To pay,Name}"),
    ("template", "https://a.example/{Name,Due}", "https://a.example/{Name,To pay}"),
    (
        "template",
        "https://a.example/{Due:3}/{Due*}{&Name, due}",
        "https://a.example/{To pay:3}/{To pay*}{&Name, To pay}",
    ),
    ("template", "https://a.example/Due/{Due date}", "https://a.example/Due/{Due date}"),
]


@pytest.mark.parametrize(("what", "before", "after"), RENAMED)
def test_a_column_is_renamed_where_the_parsers_find_it_and_nowhere_else(what, before, after):
    recipe = renamed(Recipe(columns={"X": ColumnSettings(**{what: before})}), "Due", "To pay")
    assert getattr(recipe.columns["X"], what) == after


def test_a_wording_is_renamed_in_its_fields_only():
    recipe = renamed(Recipe(wording="Due {Due} { due }\r\n{Due date} {Due"), "Due", "To pay")
    assert recipe.wording == "Due {To pay} {To pay}\n{Due date} {Due"


def test_a_column_with_a_comma_in_its_name_is_renamed():
    settings = ColumnSettings(template="https://a.example/{Due, total}")
    assert (
        renamed(Recipe(columns={"X": settings}), "Due, total", "Sum").columns["X"].template == "https://a.example/{Sum}"
    )


def test_columns_that_an_earlier_sheet_called_otherwise_are_named():
    other = Sheet(("Holder", "Mobile", "LOA", "Paid"), SHEET.rows)
    columns = evaluate(Readings(other), RECIPE).columns
    assert unmatched(RECIPE, columns) == ("Name", "Length")
    matched = renamed(renamed(RECIPE, "Name", "Holder"), "Length", "LOA")
    found = Computed(Composer(Readings(other), matched))
    assert found.texts == compute_round(SHEET, RECIPE).texts or found.texts[0].startswith("P0: $70.00")


def test_a_computed_column_may_hold_the_numbers():
    sheet = Sheet(("Name", "Area", "Line"), [("Ines", "902", "555-0128"), ("Bo", "902", "55")])
    recipe = recipe_from_toml(
        'wording = "Hi {Name}"\n[columns."To"]\nrole = "mobile number"\nformula = \'{Area} & "-" & {Line}\''
    )
    found = compute_round(sheet, recipe)
    assert [number.e164 for number in found.numbers] == ["+19025550128", ""]
    assert found.marks == ["Ready", "Held"]


def test_amounts_stay_decimal_to_the_last_digit():
    sheet = Sheet(("Mobile", "A"), [("902-555-0101", "0.1")])
    formulas = {"B": "{A} + 0.2", "C": "{B} * 10^20 / 10^20"}
    recipe = Recipe(columns={name: ColumnSettings(formula=formula) for name, formula in formulas.items()})
    columns = evaluate(Readings(sheet), recipe).evaluation
    assert [columns.column(i).values[0] for i in (2, 3)] == [Decimal("0.3"), Decimal("0.3")]


def test_figures_in_percent_stay_in_percent():
    columns = evaluate(Readings(Sheet(("Discount",), [("15.5%",), ("5.0 %",), (None,)])), Recipe()).evaluation
    assert [columns.column(0).shown[row] for row in range(3)] == ["15.5%", "5%", None]
    assert columns.bound("200 * {Discount}")(0) == 31
    mostly_plain = evaluate(Readings(Sheet(("Share",), [("15.5%",), ("0.5",)])), Recipe()).evaluation
    assert [mostly_plain.column(0).shown[row] for row in range(2)] == ["0.155", "0.5"]
