"""Cells that their commas part are asked about, each reading shown; what only looks like it is left alone."""

import random
import re

import pytest

from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.bring_in import Before, Choice, bring_in, glance
from gentle_ledger.core.sheets.torn import Commas

TORN = {
    # lines of a file, and what is asked: line, column, and what stands there if it is one cell
    "all, blank behind": ("Mobile,Name,Due,Note|1,Ada,12,50,|2,Bo,113,75,", [(2, "Due", "12,50")]),
    "all, no blank behind": ("Mobile,Name,Due,Note|1,Ada,12,50|2,Bo,113,75", [(2, "Due", "12,50")]),
    "one among points": ("Mobile,Name,Due,Note|1,Ada,12.50,|2,Bo,113,75|3,Cy,40.00,", [(3, "Due", "113,75")]),
    "groups, blanks dropped": ("Mobile,Name,Due,Note|1,Ada,12.50|2,Bo,1,020.00", [(3, "Due", "1,020.00")]),
    "groups in all": ("Mobile,Name,Due,Note|1,Ada,2,250.00|2,Bo,1,020.00", [(2, "Due", "2,250.00")]),
    "millions": ("Mobile,Name,Due,Note|1,Ada,9.00,|2,Bo,1,234,567.00,", [(3, "Due", "1,234,567.00")]),
    "shifted": ("Mobile,Due,Feet,Berth,Note|1,12.50,24,B1,|2,113,75,28,B2|3,9.00,30,B3,", [(3, "Due", "113,75")]),
    "among pairs of figures": (
        "Mobile,Feet,kWh,Due,Note|1,24,60,186.40|2,28,74,113,75|3,28,74,113.20",
        [(3, "Due", "113,75")],
    ),
    "wider than the names": ("Mobile,Name,Due|1,Ada,1,234.50|2,Bo,900.00", [(2, "Due", "1,234.50")]),
    "points for groups": ("Mobile,Name,Due,Note|1,Ada,1234,50,|2,Bo,1.234,00,", [(2, "Due", "1234,50")]),
    "with signs": ("Mobile,Name,Due,Note|1,Ada,$12,50,|2,Bo,7,50 CAD,", [(2, "Due", "$12,50")]),
    "noughts in front": ("Mobile,Name,Due,Berth|1,Ada,12,05|2,Bo,7,50", [(2, "Due", "12,05")]),
    "thousandths of a rate": ("Mobile,Rate,Note|1,0,1875,|2,0,1725,", [(2, "Rate", "0,1875")]),
    "in another language": ("Handy,Name,Betrag,Bemerkung|1,Ada,12,50,|2,Bo,7,05,", [(2, "Betrag", "12,50")]),
    "two of a row": (
        "Mobile,Name,Due,Arrears,Note|1,Ada,12,50,7,25,|2,Bo,30,00,8,10,",
        [(2, "Due", "12,50"), (2, "Arrears", "7,25")],
    ),
    "a name": ("Mobile,Name,Berth,Note|1,Ada Ames,B17,|2,Bode, Bo,B18|3,Cy,B19,late", [(3, "Name", "Bode, Bo")]),
}
AS_THEY_STAND = {
    "two figures": "Mobile,Feet,Berth|1,24,17|2,30,5|3,28,11",
    "two figures and an amount": "Mobile,Feet,kWh,Due,Note|1,24,17,186.40,|2,30,5,20.10,x|3,28,11,200,",
    "a berth and an amount": "Mobile,Berth,Due|1,12,234.50|2,9,186.40|3,12,999.00",
    "days behind an amount": "Mobile,Due,Days late|1,120,30|2,250,60|3,90,90",
    "quotes around each": 'Mobile,Name,Due,Note|1,Ada,"12","50"|2,Bo,"1","20"',
    "whole amounts among others": "Mobile,Name,Due,kWh,Note|1,Ada,12.50,60,|2,Bo,113,75,",
    "two fees": "Mobile,Base fee,Late fee|1,120,25|2,95,10",
    "a comma more in each line": "Mobile,Name,Feet,Berth|1,Ada,24,17,|2,Bo,30,B2,",
    "blanks behind all commas": "Mobile, Name, Feet, Berth|1, Ada Ames, 24, 17|2, Bo, 28, 9",
    "codes with noughts": "Mobile,Feet,Berth|1,24,017|2,30,005|3,28,011",
    "a nought, and a word among figures": "Mobile,Feet,kWh,Paid|1,12.10,118,|2,oops,0,10|3,7,0,100",
    "another separator": "Mobile;Name;Due;Note|1;Ada;12,50;|2;Bo;113,75;",
    "quotes around amounts": 'Mobile,Name,Due,Note|1,Ada,"12,50",|2,Bo,"113,75",',
}


def data_of(text):
    return re.sub(r"\|(\d)(?=[,;])", r"\n902-555-010\1", text).encode()


def read(text, **said):
    return bring_in(data_of(text), "a.csv", Choice(**said))


@pytest.mark.parametrize(("text", "asked"), TORN.values(), ids=list(TORN))
def test_what_may_be_torn_is_asked_about_and_put_together(text, asked):
    found = glance(data_of(text), "a.csv").torn
    assert [(each.line, each.column, each.whole) for each in found] == asked
    with pytest.raises(SheetError, match="is that"):
        read(text)
    sheet = read(text, commas=dict.fromkeys((each.column for each in found), Commas.WITHIN)).sheet
    for line, column, whole in asked:
        assert sheet.rows[line - 2][sheet.position(column)] == whole


@pytest.mark.parametrize("text", AS_THEY_STAND.values(), ids=list(AS_THEY_STAND))
def test_what_stands_in_cells_of_its_own_is_left_alone(text):
    assert glance(data_of(text), "a.csv").torn == ()
    assert len(read(text).sheet.rows) == text.count("|")


def test_a_row_that_is_too_wide_in_any_way_is_refused_and_not_asked_about():
    with pytest.raises(SheetError, match="Row 2 has 5 cells"):
        read("Mobile,Feet|1,24|2,24,50,17,B2")


def test_an_answer_is_good_for_a_file_made_like_it_and_for_no_single_row():
    all_torn, one_torn = TORN["all, blank behind"][0], TORN["one among points"][0]
    before = {"Due": Commas.WITHIN}
    brought = read(all_torn, commas=before)
    assert brought.commas == before
    assert [row[2] for row in read(all_torn, before=Before(commas=brought.commas)).sheet.rows] == ["12,50", "113,75"]
    with pytest.raises(SheetError, match="Line 3 has “113,75”"):
        read(one_torn, before=Before(commas=before))
    assert read(one_torn, commas=before).commas == {}
    apart = read(one_torn, commas={"Due": Commas.BETWEEN}).sheet
    assert apart.rows[1][2:] == ("113", "75")


@pytest.mark.parametrize("seed", range(120))
def test_no_torn_amount_is_ready_and_wrong(seed):
    """Sheets of known truth, written without quotes by somebody whose decimals have commas, in some rows or in all."""
    rng = random.Random(seed)
    more = rng.sample(["Feet", "Berth", "Days late", "Boat"], rng.randrange(3))
    names = ["Mobile", *more[:1], "Due", *more[1:], *["Note", "Seen by"][: rng.randrange(1, 3)]]
    share = rng.choice((0.1, 0.5, 1.0))
    truth, lines = [], [",".join(names)]
    for i in range(rng.randrange(2, 30)):
        due = f"{rng.randrange(100, 400_000) / 100:.2f}"
        torn = rng.random() < share
        shown = rng.choice((due.replace(".", ","), f"{float(due):,.2f}")) if torn else due
        cells = {"Mobile": f"902-555-01{i:02}", "Due": shown, "Feet": rng.randrange(18, 60), "Berth": f"B{i}"}
        cells |= {"Days late": rng.choice((30, 60, 90)), "Boat": f"Tern {chr(65 + i % 26)}"}
        line = ",".join(str(cells.get(name, "")) for name in names)
        lines.append(line.rstrip(",") if rng.random() < 0.3 else line)
        truth.append(due)
    data = "\n".join(lines).encode()
    asked = glance(data, "a.csv").torn
    sheet = bring_in(data, "a.csv", Choice(commas={each.column: Commas.WITHIN for each in asked})).sheet
    found = compute_round(sheet, Recipe(wording="You owe {Due}"))
    for row, due in enumerate(truth):
        if found.marks[row] == "Ready":
            assert found.composer.text(row) == f"You owe ${float(due):,.2f}", (lines[0], lines[row + 1])


@pytest.mark.parametrize("seed", range(40))
def test_sheets_without_a_torn_cell_ask_nothing(seed):
    rng = random.Random(seed)
    names = ["Mobile", "Feet", "kWh", "Due", "Days late", "Berth", "Note"]
    if rng.random() < 0.5:
        names[1:6] = rng.sample(names[1:6], 5)
    lines = [",".join(names)]
    for i in range(rng.randrange(2, 40)):
        whole = rng.random() < 0.3
        cells = {"Mobile": f"902-555-01{i:02}", "Feet": rng.randrange(18, 60), "kWh": rng.randrange(400)}
        cells |= {"Due": rng.randrange(100, 999) if whole else f"{rng.randrange(9, 99_999) / 100:.2f}"}
        cells |= {"Days late": rng.choice((0, 30, 60, 90)), "Berth": rng.randrange(1, 40)}
        lines.append(",".join(str(cells.get(name, "")) for name in names))
    assert glance("\n".join(lines).encode(), "a.csv").torn == ()
