"""A round computed: texts, marks, checks, the recipe, and what is written out."""

import csv
import io
import json
import re
from datetime import UTC, date, datetime
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from python_calamine import CalamineWorkbook

from gentle_ledger.core.cells.countries import country_in
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.checks.release import ANYTHING, Release
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.model import ColumnSettings, CombineSettings, LeaveOutRule, Recipe
from gentle_ledger.core.recipe.toml import recipe_from_toml, recipe_to_toml
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.fit import refuse_misfit
from gentle_ledger.core.rounds.plan import COLUMNS, plan_as_csv, plan_as_json_lines
from gentle_ledger.core.rounds.slip import slip_of
from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.core.sheets.export import MarkedRow, safe_for_spreadsheet, to_csv, to_xlsx
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.core.wording.parse import Field, parse_wording
from gentle_ledger.core.wording.renaming import uses_of, without

COLS = ("First name", "Mobile", "Berth", "Due")
ROW = ("Ines", "902-555-0128", "C14", "186.40")
RECIPE = recipe_from_toml(
    """
title = "November berth dues"
as_of = 2026-11-24
region = "CA"
currency = "CAD"
locale = "en-CA"
wording = "Hello {First name}, berth {Berth} has {Due} to pay."
[columns."Mobile"]
role = "mobile number"
[columns."First name"]
fallback = "there"
"""
)


def computed(*rows, recipe=RECIPE, **more):
    return compute_round(Sheet(COLS, list(rows)), recipe, **more)


def test_text_of_a_row():
    found = computed(ROW, (None, *ROW[1:3], "12"))
    assert found.texts[0] == "Hello Ines, berth C14 has $186.40 to pay."
    assert found.texts[1] == "Hello there, berth C14 has $12.00 to pay."
    assert found.marks == ["Ready", "Ready"]


def test_the_largest_text_that_can_be_joined_takes_255_parts_and_one_character_more_is_held():
    frame = len("Hello , berth C1 has $5.00 to pay.")
    for more, mark in ((0, "Ready"), (1, "Held")):
        found = computed(("B" * (255 * 153 - frame + more), "902-555-0111", "C1", "5"))
        assert (found.measures[0].parts, found.marks) == (255 + more, [mark])


def test_a_row_with_one_odd_finding_is_looked_at_by_the_later_checks_too():
    others = [("P", f"902-555-015{i}", "D1", "100") for i in range(5)]
    odd = ("Zoë" * 60, ROW[1], "C1", "9000")
    found = {f.check for f in computed(ROW, odd, *others).findings if f.row == 1}
    assert found == {"same number", "alphabet", "unusual", "longer", "large"}


def with_columns(wording, sheet=COLS, rows=(ROW,), **formulas):
    recipe = RECIPE.model_copy(update={"wording": wording})
    for name, formula in formulas.items():
        recipe = recipe.with_column(name, ColumnSettings(formula=formula))
    return compute_round(Sheet(tuple(sheet), list(rows)), recipe)


MONEY = [
    # a formula without a format, and what it is written as
    ("{Due} * 2", "$372.80"),
    ("{Due} / 4 + 1", "$47.60"),
    ("{Due} / {Due}", "1"),
    ("{Due} * {Due} / 100", "347.4496"),
    ("{Due} * {Due} / {Due}", "$186.40"),
    ("ROUND({Due} * 1.5%; 2)", "$2.80"),
    ('IF({Due} > 1000; {Due}; "nothing much")', "nothing much"),
    ("IF({Due} > 0; {Due}; 0)", "$186.40"),
    ("INT({Due})", "$186.00"),
    ("COUNT({Due})", "1"),
    ("LEN({Berth}) + 1", "4"),
    ("DATE(2026; 11; 17)", "Nov 17, 2026"),
    ('"You owe " & {Due} & "."', "You owe $186.40."),
    ('"You owe " & {Due} * 2 & "."', "You owe $372.80."),
    ('CONCATENATE("You owe "; {Due})', "You owe $186.40"),
    ('"Rate " & {Due} / {Due}', "Rate 1"),
    ('TEXT({Due}; "0.0")', "186.4"),
    ('LEFT({Due}; 3) & "!"', "186!"),
]


@pytest.mark.parametrize(("formula", "shown"), MONEY, ids=[case[0] for case in MONEY])
def test_money_stays_money_through_a_formula(formula, shown):
    assert with_columns("{Owing}", Owing=formula).texts == [shown]


def test_an_address_put_together_by_a_formula_has_plain_amounts():
    formula = '"https://pay.saltmarsh.example/" & {Berth} & "?due=" & {Due} & "&late=" & {Due} * 1.5%'
    recipe = RECIPE.model_copy(update={"wording": "{Link}"})
    recipe = recipe.with_column("Link", ColumnSettings(role=Role.LINK, formula=formula))
    assert computed(ROW, recipe=recipe).texts == ["https://pay.saltmarsh.example/C14?due=186.40&late=2.80"]


def test_a_phrase_may_be_for_some_rows_only():
    found = with_columns("Hello.{Late}", rows=[ROW, (*ROW[:3], "5")], Late='IF({Due} > 100; " Late!"; "")')
    assert (found.texts, found.marks) == (["Hello. Late!", "Hello."], ["Ready", "Ready"])
    assert slip_of(found.composer, 1).whole
    assert with_columns(
        "Hello.{Late}", Late="IF({Due} > 0; {Boat}; 1)", sheet=(*COLS, "Boat"), rows=[(*ROW, None)]
    ).marks == ["Held"], "a blank cell is blank, whatever formula it comes through"


def test_two_brackets_write_one():
    found = with_columns("{{{Due}}} {{Berth}}")
    assert (found.texts, found.marks) == (["{$186.40} {Berth}"], ["Ready"])


def test_rows_that_were_to_be_combined_by_a_column_that_is_gone_are_held():
    lost = RECIPE.model_copy(update={"combine": CombineSettings(by="Slip")})
    found = computed(ROW, recipe=lost)
    assert (found.marks, [f.check for f in found.findings]) == (["Held"], ["combine"])
    assert computed(ROW, recipe=without(lost, "slip")).marks == ["Ready"]
    rule = LeaveOutRule(when="{Paid} > 0", reason="paid")
    ruled = RECIPE.model_copy(update={"leave_out": (rule,)})
    assert computed(ROW, recipe=ruled).marks == ["Held"]
    assert without(ruled, "Due") == ruled
    assert uses_of(ruled, "paid") == ["the rule “paid”"]


@pytest.mark.parametrize(
    ("name", "country"),
    [
        ("Schweden", "SE"),
        ("SUEDE", "SE"),
        ("Svezia", "SE"),
        ("日本", "JP"),
        ("Канада", "CA"),
        ("Vereinigtes Königreich", "GB"),
        ("Kongo", None),
        ("Congo", None),
        ("Elsewhere", None),
        ("C14", None),
        ("-", None),
    ],
)
def test_a_country_is_known_by_its_name_in_any_language(name, country):
    assert country_in(name, "en-CA") == country


def test_a_country_column_says_whose_number_a_row_has():
    """Swedish numbers for fiction, as its regulator gives them out: 070-174 06 05 to 99."""
    rows = [
        ("Ines", "902-555-0128", None),
        ("Bo", "070-1740605", "Sweden"),
        ("Cy", "070-1740606", "SE"),
        ("Di", "070-1740607", None),
        ("Ed", "902-555-0129", "Atlantis"),
        ("Fay", "+46701740608", "CAN"),
    ]
    sheet = Sheet(("Name", "Mobile", "Country"), rows)
    recipe = Recipe(wording="Hi {Name}", columns={"Country": ColumnSettings(role=Role.COUNTRY)})
    found = compute_round(sheet, recipe)
    wanted = ["+19025550128", "+46701740605", "+46701740606", "", "", "+46701740608"]
    assert [number.e164 for number in found.numbers] == wanted
    assert found.marks == ["Ready", "Ready", "Ready", "Held", "Held", "Held"]
    assert "is no country" in found.reason(4)
    assert [f.row for f in found.findings if f.check == "which country"] == [5]
    readings = Readings(sheet)
    evaluate(readings, recipe).phones.number(1, 3)
    mended = Sheet(sheet.columns, [*rows[:3], ("Di", "070-1740607", "sweden"), *rows[4:]])
    assert readings.after(mended, [(3, 2)]).numbers(1, recipe)[3].e164 == "+46701740607"


def test_rows_wait_for_the_answer_to_how_their_column_is_read():
    rows = [(*ROW[:3], "12,50"), ("Bo", "902-555-0111", "C1", "1,234"), ("Cy", "902-555-0112", "C2", "7")]
    found = computed(*rows)
    assert found.marks == ["Held", "Held", "Ready"]
    assert [(f.check, f.row) for f in found.findings] == [("question", 0), ("question", 1)]
    assert "could be read in two ways" in found.reason(0)
    owing = RECIPE.with_column("Owing", ColumnSettings(formula="{Due} + 1", format="money"))
    through = computed(*rows, recipe=owing.model_copy(update={"wording": "{Owing}"}))
    assert through.marks == ["Held", "Held", "Ready"]
    assert {f.check for f in through.findings} == {"question"}
    point = RECIPE.with_column("Due", ColumnSettings(reading=Order.POINT))
    assert computed(*rows, recipe=point).marks == ["Ready"] * 3
    alone = RECIPE.with_column("Due", ColumnSettings(reading=Order.EACH))
    assert computed(*rows, recipe=alone).marks == ["Ready", "Held", "Ready"]
    unused = computed(*rows, recipe=RECIPE.model_copy(update={"wording": "Hello"}))
    assert unused.marks == ["Ready"] * 3


LET_GO = Release([("repeat", ANYTHING), ("number", ANYTHING)], "asked for twice")


def test_left_out_and_released_rows():
    found = computed(ROW, ROW, ROW, left_out={0}, released={2: LET_GO})
    assert found.marks == ["Left out", "Ready", "Ready"]
    assert computed(("Bo", "x", "C1", "5"), released={0: LET_GO}).marks == ["Held"]


@given(st.permutations(range(6)))
def test_a_text_comes_from_its_own_row_only(order):
    rows = [(f"P{i}", f"902-555-010{i}", f"D{i}", str(i + 1)) for i in range(6)]
    straight, mixed = computed(*rows), computed(*[rows[i] for i in order])
    assert [mixed.texts[place] for place in range(6)] == [straight.texts[i] for i in order]


@given(st.text("ab{}\n 😀", max_size=40))
def test_a_wording_taken_apart_gives_itself_back(text):
    pieces = parse_wording(text).pieces
    again = "".join(text[p.start : p.end] if isinstance(p, Field) else p for p in pieces)
    assert again == re.sub(r"\{\{|\}\}|(\{[^{}\n]*\})", lambda found: found[1] or found[0][0], text)


def test_slip_shows_gaps_and_the_character_that_costs():
    slip = slip_of(computed((None, "902-555-0111", "", "5")).composer, 0)
    assert not slip.whole
    assert [run.column for part in slip.parts for run in part if run.gap] == ["Berth"]
    slip = slip_of(computed(ROW, recipe=RECIPE.model_copy(update={"wording": "Hi {Bert}"})).composer, 0)
    assert ([run.text for part in slip.parts for run in part if run.gap], slip.whole) == (["Bert"], False)
    slip = slip_of(computed(("D’Arcy", *ROW[1:])).composer, 0)
    assert (slip.beyond.column, slip.beyond.position) == ("First name", 8)
    assert "right single quotation mark" in slip.beyond.name


def test_recipe_survives_its_toml():
    recipe = RECIPE.with_column("Due", RECIPE.setting("Due").model_copy(update={"fallback": '"nothing"\n{x}'}))
    assert recipe_from_toml(recipe_to_toml(recipe)) == recipe


@pytest.mark.parametrize(
    ("toml", "says"),
    [
        ("wording = ", "not valid TOML"),
        ('colour = "red"', '"colour": there is no such setting'),
        ('region = "Atlantis"', "ISO 3166-1"),
        ('currency = "DOLLARS"', "ISO 4217"),
        ('locale = "xx-YY-zz"', "locale"),
        ("[pace]\nevery = 0.01", "pace.every"),
        ("[pace]\nevery = 3\ngive_or_take = 5", "longer than every"),
        ('[columns."Due"]\nrole = "cash"', "columns.Due.role"),
        ('[columns."Debt"]\nfallback = "x"', 'a column "Debt" that the sheet lacks'),
        ('[columns."Due"]\nrole = "mobile number"\n[columns."Mobile"]\nrole = "mobile number"', "goes to one number"),
        ('wording = "{Debt}"', 'No column is called "Debt"'),
        ('wording = "a {Due"', "not closed"),
        (
            '[columns."Fee"]\nformula = "{Debt} * 2"',
            'formula of Fee cannot be used: No column is called "Debt". (character 1)',
        ),
        ('[columns."Due"]\nformula = "1"', 'The sheet has a column "Due" already'),
        ('[columns."Fee"]\nformula = "1"\ntemplate = "x"', "a formula or a template, not both"),
        ('[columns."Fee"]\nformula = "1"\nformat = "cash"', "columns.Fee.format"),
        ('[columns."Fee"]\ntemplate = "https://a.example/{Debt}"', 'No column is called "Debt"'),
        ('[[leave_out]]\nwhen = "{Due} <"\nreason = "x"', 'rule "x" cannot be used'),
    ],
)
def test_a_recipe_that_cannot_be_used_says_why(toml, says):
    with pytest.raises(LedgerError) as refused:
        refuse_misfit(Composer(Readings(Sheet(COLS, [ROW])), recipe_from_toml(toml)))
    assert says in refused.value.sentence


def test_plan_is_the_same_as_csv_and_json():
    found = computed(ROW, ("Bo", "902-555-012", "C1", "5"))
    lines = list(csv.DictReader(io.StringIO(plan_as_csv(found))))
    objects = [json.loads(line) for line in plan_as_json_lines(found).splitlines()]
    assert (tuple(lines[0]), tuple(objects[0])) == (COLUMNS, (*COLUMNS, "oddness"))
    same = COLUMNS[: COLUMNS.index("wording")]
    assert [{k: str(o[k]) for k in same} for o in objects] == [{k: line[k] for k in same} for line in lines]
    assert (lines[1]["number"], lines[1]["mark"], lines[1]["wording"]) == ("", "Held", "")
    [finding] = objects[1]["findings"]
    assert (finding["check"], finding["level"]) == ("number", "holds")
    assert finding["reason"] == lines[1]["findings"] == lines[1]["reason"]
    assert objects[1]["wording"] is None
    assert objects[0]["oddness"] < 1 < objects[1]["oddness"]


MARKED = MarkedRow(
    (
        "=1+1",
        Decimal("9.2"),
        date(2026, 11, 30),
        "https://pay.saltmarsh.example/a",
        None,
        True,
        Decimal("12345678901234567"),
    ),
    "Failed",
    datetime(2026, 11, 24, 12, tzinfo=UTC),
    "@gone",
    "ab12",
    1,
    "+1 free?",
)
MARKED_COLUMNS = ("A", "B", "C", "D", "Mark", "F", "G")


def test_marked_sheet_as_csv():
    read = list(csv.reader(io.StringIO(to_csv(MARKED_COLUMNS, [MARKED]).decode("utf-8-sig"))))
    assert read[0] == [*MARKED_COLUMNS, "Mark 2", "Time", "Reason", "Reference", "Parts", "Text"]
    when = read[1].pop(8)
    assert datetime.fromisoformat(when) == MARKED.at
    assert datetime.fromisoformat(when).utcoffset() is not None
    link = "https://pay.saltmarsh.example/a"
    assert read[1][:8] == ["'=1+1", "9.2", "2026-11-30", link, "", "TRUE", "12345678901234567", "Failed"]
    assert read[1][8:] == ["'@gone", "ab12", "1", "'+1 free?"]


def test_marked_sheet_as_xlsx_read_by_calamine():
    book = CalamineWorkbook.from_filelike(io.BytesIO(to_xlsx(MARKED_COLUMNS, [MARKED])))
    row = book.get_sheet_by_index(0).to_python()[1]
    assert row[:4] == ["=1+1", 9.2, date(2026, 11, 30), "https://pay.saltmarsh.example/a"]
    assert row[6:8] == ["12345678901234567", "Failed"]
    assert row[-1] == "+1 free?"


@pytest.mark.parametrize("cell", ["=A1", "+cmd", "-2+3", "@x", "\tx", "\rx", "＝A1"])
def test_owasp_openings_are_made_safe(cell):
    """OWASP, CSV Injection: the openings it lists, from memory."""
    assert safe_for_spreadsheet(cell) == f"'{cell}"
    assert safe_for_spreadsheet("-12.50") == "-12.50"
    assert safe_for_spreadsheet("") == ""


def test_names_in_two_columns():
    sheet = Sheet(("First name", "Surname", "Mobile"), [("Ines", "Okafor", "902-555-0101")])
    assert compute_round(sheet, Recipe(wording="x")).composer.label(0) == "Ines Okafor"


RAW = """\
Holder,First name,Mobile,Berth,Class,Length (m),Metered (kWh),Paid,Due date
Tobias Arkwright,Tobias,902-555-0112,A01,A,6.80,67,,2026-11-10
Maren Puddephat,Maren,902-555-0135,C 14,B,13.30,119,20,2026-11-30
Bo Quill,Bo,902-555-0136,A05,B,oops,12,0,2026-11-30
Ines Aasen,Ines,902-555-0137,A07,Z,7,119,0,2026-11-30
Cal Vasile,Cal,902-555-0138,A09,B,7,0,500,2026-11-30
"""
COMPUTING = """
as_of = 2026-11-24
wording = "{First name}: {Due}, {Late}. {Pay link}"
[columns."Due"]
formula = '{Length (m)} * FROMTABLE("Tariff"; {Class}) + {Metered (kWh)} * 0.31 - {Paid}'
format = "money"
[columns."Late"]
formula = 'IF(TODAY() > {Due date} + 10; {Due} * 1.5%; "")'
format = "money"
fallback = "no late charge"
[columns."Pay link"]
role = "link"
template = "https://pay.saltmarsh.example/{Berth}{?Due,due date}"
[[leave_out]]
when = "{Due} <= 0"
reason = "nothing to pay"
[lookups."Tariff"]
A = 14.00
B = "12.50"
"""


def test_amounts_and_links_are_computed_from_a_raw_sheet():
    found = compute_round(bring_in(RAW.encode(), "raw.csv").sheet, recipe_from_toml(COMPUTING))
    assert found.texts[0] == (
        "Tobias: $115.97, $1.74. https://pay.saltmarsh.example/A01?Due=115.97&due%20date=2026-11-10"
    )
    assert found.texts[1].startswith("Maren: $183.14, no late charge. https://pay.saltmarsh.example/C%2014?Due=183.14&")
    assert found.marks == ["Ready", "Ready", "Held", "Held", "Left out"]
    assert [found.reason(row) for row in (2, 3, 4)] == [
        "Due: Length (m) is 'oops', not a number",
        "Due: the table Tariff has nothing for 'Z'",
        "nothing to pay",
    ]
    lines = list(csv.DictReader(io.StringIO(plan_as_csv(found))))
    assert list(lines[0])[len(COLUMNS) :] == ["Due", "Late", "Pay link"]
    assert (lines[0]["Due"], lines[1]["Late"], lines[2]["Due"]) == ("115.97", "", "#VALUE!")
    whole = [json.loads(line, parse_float=Decimal) for line in plan_as_json_lines(found).splitlines()]
    assert (whole[0]["Due"], whole[1]["Late"], whole[2]["Due"]) == (Decimal("115.97"), None, "#VALUE!")


def test_what_computing_can_get_wrong_is_found():
    rows = [(f"902-555-01{i:02}", f"C{i}", "12", f"https://pay.saltmarsh.example/C{i}") for i in range(20)]
    rows[3] = (*rows[3][:2], None, rows[3][3])
    rows[4] = (*rows[4][:3], "https://pay.saltmarsh.example.evil.example/C4")
    rows[5] = (*rows[5][:3], "pay.saltmarsh.example/C5")
    recipe = Recipe(
        wording="{Due} {Link}",
        columns={
            "Due": ColumnSettings(formula="{Length} * 14 + 2", format="money"),
            "Link": ColumnSettings(role="link"),
        },
        leave_out=(LeaveOutRule(when="{Berth} < 5", reason="too short"),),
    )
    sheet = Sheet(("Mobile", "Berth", "Length", "Link"), rows)
    found = compute_round(sheet, recipe)
    assert found.marks == ["Held"] * 20
    assert found.reason(0) == "the rule \"too short\" cannot be decided: Berth is 'C0', not a number"
    found = compute_round(sheet, recipe.model_copy(update={"leave_out": ()}))
    assert found.reason(5).startswith("Link is 'pay.saltmarsh.example/C5', not an address")
    odd = {f.check: (f.row, f.reason.sentence) for f in found.findings}
    assert odd["counted blank"] == (3, "Length is blank and counts as 0 in Due")
    assert odd["other host"][0] == 4
    assert found.marks.count("Ready") == 19


def test_a_blank_name_within_a_formula_is_worth_a_look():
    rows = [(f"902-555-01{i:02}", f"P{i}" if i else None) for i in range(20)]
    recipe = Recipe(wording="{Greeting}", columns={"Greeting": ColumnSettings(formula='"Dear " & {First name}')})
    found = compute_round(Sheet(("Mobile", "First name"), rows), recipe)
    assert (found.texts[0], found.texts[1]) == ("Dear ", "Dear P1")
    assert [(f.check, f.reason.sentence) for f in found.by_row[0]] == [
        ("counted blank", "First name is blank and adds nothing in Greeting")
    ]


def test_a_blank_in_any_row_of_a_combined_text_is_told_where_the_text_is():
    rows = [("902-555-0128" if i < 2 else f"902-555-01{i:02}", None if i in {1, 9} else "12") for i in range(40)]
    recipe = Recipe(
        wording="{Due}",
        columns={"Due": ColumnSettings(formula="{Length} * 14")},
        combine=CombineSettings(by="Mobile", columns={"Due": Aggregate.SUM}),
    )
    sheet = Sheet(("Mobile", "Length"), rows)
    told = [(f.row, f.reason.sentence) for f in compute_round(sheet, recipe).findings if f.check == "counted blank"]
    assert told == [
        (0, "in row 2, Length is blank and counts as 0 in Due"),
        (9, "Length is blank and counts as 0 in Due"),
    ]
    strict = {"Due": ColumnSettings(formula="IF(ISBLANK({Length}); 1 / 0; {Length} * 14)")}
    failing = compute_round(sheet, recipe.model_copy(update={"columns": strict}))
    assert not [f for f in failing.findings if f.check == "counted blank"], "an error has said so"
    assert (failing.marks[0], failing.marks[9]) == ("Held", "Held")


def test_a_recipe_with_all_settings_survives_its_toml():
    recipe = recipe_from_toml(COMPUTING + '[columns."Berth"]\nformat = "text upper"\n')
    assert recipe_from_toml(recipe_to_toml(recipe)) == recipe
    assert recipe.lookups["Tariff"] == {"A": "14.00", "B": "12.50"}
