"""`gentle-ledger compute` from any sheet, with everything a recipe can say."""

import csv
import io
import json
from decimal import Decimal

import pytest

from gentle_ledger.cli import main
from tests.core.test_any_sheet import ods, xls, xlsx

SHEET = """\
Saltmarsh Quay,,,,,
November 2026,,,,,
First name,Mobile,Berth,Class,Length (m),Paid
Ines,902-555-0128,C14,A,12.10,
,902-555-0111,C15,B,7,10
Ines,+1 902 555 0128,D02,B,10,5
Bo,902-555-0112,E01,A,1,100
Cal,902-555-0113,E02,Z,1,
Total,,,,,115
"""
RECIPE = """
as_of = 2026-11-24
wording = "Hello {First name}, {Berth}: {Due} by {Until}. {Link}"

[columns."First name"]
fallback = "there"

[columns."Due"]
formula = '{Length (m)} * FROMTABLE("Tariff"; {Class}) - {Paid}'
format = "money"

[columns."Until"]
formula = 'WORKDAY(TODAY(); 5; "Holidays")'
format = "date d MMMM"

[columns."Late"]
formula = "TODAY() > DATE(2026; 11; 30)"

[columns."Link"]
role = "link"
template = "https://pay.saltmarsh.example/{?Berth*,Due}"

[combine]
by = "Mobile"

[combine.columns]
"Due" = "sum"
"Berth" = "listed"

[[leave_out]]
when = "{Due} <= 0"
reason = "nothing to pay"

[lookups."Tariff"]
A = 14.00
B = 12.50

[lookups."Holidays"]
2026-11-30 = "storm day"
"""


@pytest.fixture
def compute(tmp_path):
    """Runs the command over a sheet and a recipe; gives the exit code and what was written."""

    def run(sheet=SHEET, recipe=RECIPE, *more, name="dues.csv"):
        given, rules, out = tmp_path / name, tmp_path / "recipe.toml", tmp_path / "out"
        out.unlink(missing_ok=True)
        given.write_bytes(sheet if isinstance(sheet, bytes) else sheet.encode())
        rules.write_text(recipe)
        code = main(["compute", str(given), "--recipe", str(rules), "--out", str(out), *more])
        return code, out.read_text() if out.exists() else None

    return run


def test_everything_a_recipe_can_say(compute):
    code, text = compute()
    lines = list(csv.DictReader(io.StringIO(text)))
    assert code == 0
    assert lines[0]["text"] == (
        "Hello Ines, C14 and D02: $289.40 by 2 December. https://pay.saltmarsh.example/?Berth=C14&Berth=D02&Due=289.40"
    )
    assert lines[1]["text"].startswith("Hello there, C15: $77.50 by 2 December.")
    assert [line["mark"] for line in lines] == ["Ready", "Ready", "Ready", "Left out", "Held"]
    assert [line["reason"] for line in lines[2:]] == [
        "goes in the text of row 1",
        "nothing to pay",
        "Due: the table Tariff has nothing for 'Z'",
    ]
    assert list(lines[0])[10:] == ["Due", "Until", "Late", "Link"]
    assert (lines[0]["Due"], lines[0]["Until"], lines[0]["Late"]) == ("169.40", "2026-12-02", "FALSE")


def test_json_gives_typed_values(compute):
    _, text = compute(SHEET, RECIPE, "--json")
    first, *_, last = (json.loads(line, parse_float=Decimal) for line in text.splitlines())
    assert (first["Due"], first["Late"], first["Until"]) == (Decimal("169.40"), False, "2026-12-02")
    assert '"Due": 169.40' in text, "the amount keeps its digits"
    assert last["Due"] == "#N/A", "a refusal is no blank"


def test_what_the_desk_would_say_is_said_on_standard_error(compute, capsys):
    text = 'Name,Mobile,Due,Sum\nInes,902-555-0128,"1,234","1.234,50"\nBo,902-555-0111,"12,50","87,5"\n\n'
    text += "Cy,902-555-0112,1,2\n"
    recipe = 'wording = "{Name}: {Due} {Sum}"\n[columns."Sum"]\nrole = "money"'
    _, lines = compute(text, recipe, "--json")
    said = capsys.readouterr().err.splitlines()
    assert said[0] == "1 blank row left out."
    assert any("how does this column write its figures?" in line for line in said)
    assert "Sum: “1.234,50” is read as 1234.50: 2 cells can be read in this way only." in said
    assert any(line.startswith("2 held: It is a question how to read Due") for line in said)
    first, second, third = map(json.loads, lines.splitlines())
    assert (first["said"], "said" in second, first["mark"]) == (said, False, "Held")
    assert third["text"] == "Cy: $1.00 $2.00"


def test_characters_can_be_named(compute, capsys):
    data = "Name,Mobile\nŁukasz Żółty,902-555-0128\n".encode("cp1250")
    assert compute(data, 'wording = "{Name}"')[0] == 2
    assert "Łukasz" in capsys.readouterr().err
    _, text = compute(data, 'wording = "{Name}"', "--characters", "windows-1250")
    assert "Łukasz Żółty" in text


def test_the_header_can_be_named(compute):
    code, text = compute("Name,Phone\nHolder,Mobile\nInes,902-555-0128\n", 'wording = "Hi {Holder}"', "--header", "2")
    assert code == 0
    assert [line["text"] for line in csv.DictReader(io.StringIO(text))] == ["Hi Ines"]


@pytest.mark.parametrize(("make", "name"), [(xlsx, "a.xlsx"), (xls, "a.xls"), (ods, "a.ods")])
def test_workbooks_of_every_kind(compute, make, name):
    recipe = (
        'wording = "{Name} {Twice}"\n[columns."Twice"]\nformula = "{Due} * 2"\n[columns."Name"]\nrole = "mobile number"'
    )
    code, text = compute(make(), recipe, "--worksheet", "Dues", name=name)
    lines = list(csv.DictReader(io.StringIO(text)))
    assert code == 0
    assert lines[0]["Twice"] == "372.8"
    assert lines[1]["Twice"] == "#VALUE!"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (("{Length (m)} *", "{Length} *"), 'formula of Due cannot be used: No column is called "Length"'),
        (('by = "Mobile"', 'by = "Account"'), 'a column "Account", which is not there'),
        (('"Due" = "sum"', '"Due" = "mean"'), '"combine.columns.Due"'),
        (('format = "money"', 'format = "cash"'), '"columns.Due.format"'),
        (("{Due} <= 0", "{Due} <="), 'rule "nothing to pay" cannot be used'),
        (("{?Berth*,Due}", "{?Berth*,Due"), "formula of Link cannot be used"),
        (("TODAY() > DATE", "TODAY( > DATE"), "formula of Late cannot be used"),
    ],
)
def test_what_cannot_be_used_is_one_sentence_and_no_file(compute, capsys, change, says):
    code, text = compute(SHEET, RECIPE.replace(*change))
    assert (code, text) == (2, None)
    error = capsys.readouterr().err
    assert says in error
    assert len(error.strip().splitlines()) == 1


def test_a_column_called_like_a_member_takes_no_member_s_place(compute):
    recipe = 'wording = "Hello {First name}"\n[columns."wording"]\nformula = "LEN({First name})"\n'
    recipe += '[columns."Text"]\nformula = "1 + 1"\n'
    _, lines = compute("First name,Mobile\nIna,902-555-0128\n", recipe, "--json")
    [row] = map(json.loads, lines.splitlines())
    assert (row["wording"], row["wording (column)"], row["text"], row["Text"]) == (None, 3, "Hello Ina", 2)
