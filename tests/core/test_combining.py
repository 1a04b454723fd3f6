"""Several rows in one text: what becomes of each column, and that nothing of a sum is lost."""

from datetime import date
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.persons import may_be_one_person
from gentle_ledger.core.cells.reading import NOT_SO
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.checks.release import ANYTHING, Release
from gentle_ledger.core.columns.combining import combined, grouped
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.model import BelongTogether, ColumnSettings, CombineSettings
from gentle_ledger.core.recipe.toml import recipe_from_toml, recipe_to_toml
from gentle_ledger.core.rounds.compute import Computed, compute_round
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer

D = Decimal
CASES = [
    ("first", [None, D(3), D(5)], D(3)),
    ("last", [D(3), D(5), None], D(5)),
    ("sum", [D("100.10"), None, D("-0.20")], D("99.90")),
    ("smallest", [D(3), None, D(-5)], D(-5)),
    ("largest", [date(2026, 11, 30), date(2026, 12, 1)], date(2026, 12, 1)),
    ("count", [D(3), None, D(3)], D(2)),
    ("listed", ["C14", "C15", "C14", "D02"], "C14, C15 and D02"),
    ("listed", ["C14", None], "C14"),
    ("sum", [None, None], None),
    (None, ["Ines", None, "Ines"], "Ines"),
    (None, ["Ines", "Bo"], "Name differs in rows 1 and 2, and how to combine it is not set"),
    ("sum", [D(3), "x"], "in row 2, Name is 'x', not a number"),
    ("largest", [D(3), date(2026, 12, 1)], "in row 2, Name is '2026-12-01', not like the rows before it"),
    (
        "first",
        [Unreadable(NOT_SO(typed="x", wanted="an amount"), "x", "an amount")],
        'in row 1, Name is "x" is not an amount',
    ),
]


@pytest.mark.parametrize(("how", "values", "expected"), CASES)
def test_what_a_combined_row_has(how, values, expected):
    shown = [None if value is None else str(value) for value in values]
    rows = range(len(values))
    found = combined("Name", rows, values.__getitem__, shown.__getitem__, how and Aggregate(how), "en-CA")
    assert (found.why if isinstance(found, Unreadable) else found) == expected


SHEET = Sheet(
    ("Name", "Mobile", "Berth", "Length", "Paid"),
    [
        ("Ines", "902-555-0112", "C14", "10", "0"),
        ("Bo", "902-555-0135", "A03", "10", "0"),
        ("Ines", "+1 902 555 0112", "C15", "20", "5"),
        ("Ines", "(902) 555-0112", "D02", "1", "50"),
        ("Cy", "902-555-0137", "A4", "10", "500"),
        ("Cy", "902-555-0137", "A5", "10", "0"),
        ("Di", "902-555-01", "B1", "10", "0"),
        ("Di", "902-555-01", "B2", "10", "0"),
    ],
)
RECIPE = recipe_from_toml(
    """
wording = "{Name}: {Berth}, {Due}, {Late}. {Link}"
[columns."Due"]
formula = "{Length} * 10 - {Paid}"
format = "money"
[columns."Late"]
formula = "{Due} * 1%"
format = "money"
[columns."Link"]
template = "https://pay.saltmarsh.example/{Name}{?Due}"
[[leave_out]]
when = "{Due} <= 0"
reason = "nothing to pay"
[combine]
by = "Mobile"
[combine.columns]
Due = "sum"
Berth = "listed"
"""
)


def test_rows_of_one_person_make_one_text():
    found = compute_round(SHEET, RECIPE)
    assert found.texts[0] == (
        "Ines: C14, C15 and D02, $255.00, $2.55. https://pay.saltmarsh.example/Ines?Due=255.00"
    ), "formulas and links without a way of their own are worked out from the combined row"
    assert found.ready == [0, 1]
    assert [found.marks[row] for row in range(8)] == [*["Ready"] * 4, *["Left out"] * 2, *["Held"] * 2]
    assert found.reason(2) == "goes in the text of row 1"
    assert found.reason(5) == "nothing to pay", "the rule is asked about what the person owes in all"
    assert "digits short" in found.reason(7), "numbers that cannot be read belong to nobody"
    assert sum(bool(text) for text in found.texts if text.startswith("Ines")) == 1


def test_a_row_left_out_by_hand_is_not_in_the_sum():
    found = compute_round(SHEET, RECIPE, left_out={0})
    assert found.texts[2].startswith("Ines: C15 and D02, $155.00")
    assert (found.marks[0], found.ready) == ("Left out", [1, 2])


def test_a_column_that_differs_holds_the_text_and_names_the_rows():
    found = compute_round(SHEET, RECIPE.model_copy(update={"wording": "{Name} {Berth} {Length}"}))
    assert found.reason(0) == "Length: Length differs in rows 1, 3 and 4, and how to combine it is not set"
    assert found.marks[3] == "Held"


def test_the_recipe_keeps_it():
    assert recipe_from_toml(recipe_to_toml(RECIPE)) == RECIPE


@given(st.lists(st.tuples(st.sampled_from(["", "a", "b", "c"]), st.decimals(-1000, 1000, places=2)), max_size=12))
def test_combining_keeps_totals(rows):
    groups = grouped([key for key, _ in rows], ())
    amounts = [amount for _, amount in rows]
    alone = [amount for row, amount in enumerate(amounts) if groups.place(row) == row]
    sums = [combined("Due", members, amounts.__getitem__, str, Aggregate.SUM, "en-CA") for members in groups.members]
    assert sum(alone) + sum(sums) == sum(amounts)
    assert sorted(row for members in groups.members for row in members) == [
        row for row in range(len(rows)) if groups.place(row) != row
    ]


def test_what_is_kept_follows_the_groups_and_the_formats():
    """The same readings serve a round whose rows are combined, then not, then otherwise: nothing of it is stale."""
    readings = Readings(SHEET)
    wordings = "{Name}: {Berth}, {Due}, {On}. {Broken}"
    extra = {"On": ColumnSettings(formula='"as agreed"'), "Broken": ColumnSettings(formula='IF(1; "x"; 2)')}
    combined_ = RECIPE.model_copy(update={"wording": wordings, "columns": {**RECIPE.columns, **extra}})
    listed_ = combined_.model_copy(
        update={"combine": CombineSettings(by="Mobile", columns={"Due": Aggregate.LISTED, "Berth": Aggregate.COUNT})}
    )
    recipes = [
        combined_.model_copy(update={"combine": None}),
        combined_,
        listed_,
        listed_.with_column("Due", ColumnSettings(formula="{Length} * 10 - {Paid}", format="number 1")),
        combined_.with_column("Broken", ColumnSettings(formula="{Nothing}")),
        combined_.with_column("Broken", ColumnSettings(formula="{Nothing}")).model_copy(update={"combine": None}),
    ]
    for recipe in (*recipes, *reversed(recipes)):
        kept, anew = compute_round(SHEET, recipe, readings=readings), compute_round(SHEET, recipe)
        assert (kept.texts, kept.marks) == (anew.texts, anew.marks)
        assert [kept.reason(row) for row in range(8)] == [anew.reason(row) for row in range(8)]
    assert compute_round(SHEET, recipes[3], readings=readings).texts[0].startswith("Ines: 3, 100.0, 195.0 and -40.0")


SAME = [
    ("Ines Wolny", "WOLNY, In\u00e8s"),
    ("Ines Wolny", "I. Wolny"),
    ("Ines Wolny", "Ines"),
    ("Ines K. Wolny", "Ines Wolny"),
    ("Bo Ames", ""),
    ("Kofi Castellane", "castellane kofi"),
    ("Jos\u00e9 A. Nu\u00f1ez", "Nunez Jose"),
    ("Anne & Bo Ames", "Anne Ames"),
]
OTHERS = [
    ("Kofi Castellane", "Brigid Tran-Moreau"),
    ("Ines Wolny", "Ina Wolny"),
    ("I. Wolny", "J. Wolny"),
    ("Mr. Wolny", "Mrs. Wolny"),
    ("Bo Ames", "Bo Ames Jr."),
    ("Bo Ames III", "Bo Ames"),
    ("Ann Ames", "Anna Ames"),
    ("A A Ames", "A B Ames"),
]


@pytest.mark.parametrize(("one", "other", "same"), [(*p, True) for p in SAME] + [(*p, False) for p in OTHERS])
def test_case_accents_order_and_initials_make_no_other_name(one, other, same):
    assert may_be_one_person(one, other) is may_be_one_person(other, one) is same


TWO = Sheet(
    ("Holder", "Boat", "Mobile", "Berth", "Due"),
    [
        ("Kofi Castellane", "Gull", "902-555-0136", "B23", "150.37"),
        ("Brigid Tran", "Tern", "(902) 555-0136", "C01", "151.60"),
        ("Ines Wolny", "Plover", "902-555-0128", "A1", "1"),
        ("WOLNY, I.", "Skua", "902-555-0128", "A2", "2"),
    ],
)
TOGETHER = recipe_from_toml(
    'wording = "{Holder}: {Berth}, {Due}. {Pay}"\n[columns."Boat"]\nrole = "name"\n[columns."Pay"]\n'
    'template = "https://pay.saltmarsh.example/{Berth}"\nrole = "link"\n[combine]\nby = "Mobile"\n'
    '[combine.columns]\nDue = "sum"\nBerth = "listed"\nHolder = "first"\n'
)


def test_rows_of_two_people_are_not_combined_until_somebody_says_so():
    found = compute_round(TWO, TOGETHER)
    assert [(finding.check, finding.row) for finding in found.findings if finding.check == "two people"] == [
        ("two people", 0),
        ("two people", 1),
    ]
    assert "Brigid Tran in row 2 has the same Mobile: do they belong together, or is one wrong?" in found.reason(0)
    assert found.composer.groups.members == ((2, 3),), "one person with two boats is asked about nothing"
    assert found.texts[0].startswith("Kofi Castellane: B23, $150.37.")
    said = BelongTogether(key="+19025550136", names=("Kofi Castellane", "Brigid Tran"))
    together = TOGETHER.model_copy(update={"belong_together": (said,)})
    assert compute_round(TWO, together).composer.groups.members == ((0, 1), (2, 3))
    for name, asks in (("tran, b.", False), ("Bridget Tran", True), ("Brigid Castellane", True)):
        rows = [TWO.rows[0], (name, *TWO.rows[1][1:]), *TWO.rows[2:]]
        assert bool(compute_round(Sheet(TWO.columns, rows), together).composer.groups.apart) is asks, name
    elsewhere = [(*TWO.rows[row][:2], "902-555-0111", *TWO.rows[row][3:]) for row in (0, 1)]
    assert compute_round(Sheet(TWO.columns, elsewhere), together).composer.groups.apart, "the number is another"
    released = Release(frozenset({("two people", ANYTHING)}), "two texts")
    alone = Computed(Composer(Readings(TWO), TOGETHER), released={0: released, 1: released})
    assert [alone.marks[row] for row in (0, 1)] == ["Ready", "Ready"]
    assert alone.texts[1] == "Brigid Tran: C01, $151.60. https://pay.saltmarsh.example/C01"


LINKS = [
    ("https://pay.saltmarsh.example/{Berth}", None, True, "A1%20and%20A2"),
    ("https://pay.saltmarsh.example/{?Berth}", None, True, "A1%20and%20A2"),
    ("https://pay.saltmarsh.example/{?Berth*}", None, False, "?Berth=A1&Berth=A2"),
    ("https://pay.saltmarsh.example{/Berth*}", None, False, "/A1/A2"),
    ("https://pay.saltmarsh.example{/Berth*}{?Berth}", None, True, ""),
    ("https://pay.saltmarsh.example/{Mobile}", None, False, ""),
    ("https://pay.saltmarsh.example/{Berth}", "listed", False, "example/A1 and https://pay.saltmarsh.example/A2"),
    ("https://pay.saltmarsh.example/{Berth}", "first", False, "example/A1"),
    ("https://pay.saltmarsh.example/{Ref}", None, True, "A1%20and%20A2-1"),
]


@pytest.mark.parametrize(("template", "how", "held", "text"), LINKS, ids=[f"{t} {h}" for t, h, *_ in LINKS])
def test_a_link_of_joined_cells_is_held_unless_it_is_made_for_lists(template, how, held, text):
    pay, ref = ColumnSettings(template=template, role=Role.LINK), ColumnSettings(formula='{Berth} & "-1"')
    combine = TOGETHER.combine.model_copy(
        update={"columns": {**TOGETHER.combine.columns, **({"Pay": Aggregate(how)} if how else {})}}
    )
    recipe = TOGETHER.model_copy(update={"columns": {"Pay": pay, "Ref": ref}, "combine": combine})
    found = compute_round(Sheet(TWO.columns, TWO.rows[2:]), recipe)
    assert [finding.check for finding in found.findings if finding.check == "joined link"] == ["joined link"] * held
    assert text in found.texts[0]
    assert found.marks == (["Held"] * 2 if held else ["Ready"] * 2)


@pytest.mark.parametrize(
    ("wording", "held"),
    [
        ("{Holder} https://pay.saltmarsh.example/{Berth}", True),
        ("{Holder} https://pay.saltmarsh.example/ {Berth}", False),
        ("{Holder}: {Berth}, see https://pay.saltmarsh.example/", False),
        ("{Holder}: {See}", True),
    ],
)
def test_a_list_behind_an_address_in_the_wording_is_held_too(wording, held):
    see = ColumnSettings(formula='"see https://pay.saltmarsh.example/" & {Berth}')
    recipe = TOGETHER.model_copy(update={"wording": wording, "columns": {"See": see}})
    found = compute_round(Sheet(TWO.columns, TWO.rows[2:]), recipe)
    assert [f.check for f in found.findings if f.check == "joined link"] == ["joined link"] * held
