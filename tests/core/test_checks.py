"""Every check by its table of cases in `checks/`: the rows it must find, and near misses that it must not."""

import tomllib
from datetime import UTC, datetime
from pathlib import Path

import pytest
import tomli_w

from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.checks import CHECKS, Level, Release, check_of
from gentle_ledger.core.checks.history import Asked, Before, History
from gentle_ledger.core.checks.registry import refuse_levels
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.toml import recipe_from_toml
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer

COLUMNS = ["First name", "Mobile", "Berth", "Due"]
FIRST = ["Ines", "902-555-0128", "C14", "186.40"]
OTHERS = [["P", f"902-555-015{i}", "D1", "100"] for i in range(5)]
USUAL = """
region = "CA"
currency = "CAD"
locale = "en-CA"
"""
SETTINGS = """
[columns."Mobile"]
role = "mobile number"
[columns."First name"]
fallback = "there"
"""
WORDING = "Hello {First name}, berth {Berth} has {Due} to pay."


def _tables():
    for path in sorted(Path(__file__).with_name("checks").glob("*.toml")):
        table = tomllib.loads(path.read_text("utf-8"))
        for case in table["case"]:
            yield table["check"], case


CASES = list(_tables())


def _history(entries):
    at = datetime(2026, 11, 3, tzinfo=UTC)
    texts, codes, lately, reminded, asked, names, on_record = {}, {}, {}, {}, {}, {}, {}
    for entry in entries:
        number = entry["number"]
        before = Before(at, entry.get("title", ""), entry.get("row", 1), entry.get("went", True))
        if "asked" in entry:
            asked[number] = Asked(entry["asked"], entry["how"])
        elif "times" in entry:
            reminded[number, entry["code"]] = entry["times"]
        elif "record" in entry:
            on_record[number, entry["record"]] = before
        elif "name" in entry:
            names.setdefault(number, []).append(entry["name"])
        elif "lately" in entry:
            lately[number] = before
        else:
            (texts if "text" in entry else codes)[number, entry.get("text", entry.get("code"))] = before
    return History(texts, codes, lately, reminded, asked, names=names, on_record=on_record)


def _computed(case):
    """The usual sheet with the case's row as its second, or the case's own sheet."""
    rows = case.get("rows") or [FIRST, case["row"], *OTHERS]
    rows = [[part * int(n) if n else part for part, _, n in (cell.partition(" × ") for cell in row)] for row in rows]
    columns = case.get("columns", COLUMNS)
    settings = SETTINGS if columns == COLUMNS else ""
    first = {"title": "November dues", "sender": case.get("sender", ""), "wording": case.get("wording", WORDING)}
    first |= {"as_of": case["as_of"]} if "as_of" in case else {}
    first |= {"locale": case["locale"]} if "locale" in case else {}
    first |= {"countries": case["countries"]} if "countries" in case else {}
    usual = USUAL.replace('locale = "en-CA"', "") if "locale" in case else USUAL
    recipe = recipe_from_toml(f"{tomli_w.dumps(first)}{usual}{settings}{case.get('recipe', '')}")
    sheet = Sheet(tuple(columns), [tuple(row) for row in rows])
    composer = Composer(Readings(sheet), recipe)
    return Computed(composer, recall=lambda _numbers, _witnesses: _history(case.get("history", ())))


@pytest.mark.parametrize(("key", "case"), CASES, ids=[f"{key}: {case['why']}" for key, case in CASES])
def test_a_check_finds_just_what_its_cases_say(key, case):
    found = _computed(case)
    mine = found.by_check.get(key, [])
    wanted = case["finds"]
    wanted = {"2": wanted} if isinstance(wanted, str) else wanted
    assert {str(finding.row + 1) for finding in mine} == set(wanted)
    for finding in mine:
        assert wanted[str(finding.row + 1)] in finding.reason.sentence
        assert (found.marks[finding.row] == "Held") == check_of(key).level.holds
    if mine:
        assert case.get("says", "") in check_of(key).sentence(mine)


def test_every_check_has_a_case_that_it_finds_and_one_that_it_does_not():
    finds = {key for key, case in CASES if case["finds"]}
    passes = {key for key, case in CASES if not case["finds"]}
    assert {check.key for check in CHECKS} == finds == passes


def test_a_released_row_passes_the_checks_that_may_be_released_only():
    sheet = Sheet(tuple(COLUMNS), [tuple(FIRST), tuple(FIRST), ("Bo", "x", "C1", "5")])
    composer = Composer(Readings(sheet), recipe_from_toml(f"wording = {WORDING!r}{USUAL}{SETTINGS}"))
    held = Computed(composer)
    assert held.marks == ["Ready", "Held", "Held"]
    free = {row: Release([(f.check, f.reason.sentence) for f in held.holding(row)], "asked twice") for row in (1, 2)}
    assert Computed(composer, released=free).marks == ["Ready", "Ready", "Held"]
    assert Computed(composer, released=free).standing(1).released == "asked twice"
    other = {1: Release([("repeat", "same number and same text as row 7")], "said of something else")}
    assert Computed(composer, released=other).marks == held.marks, "what is said now was not let go"


@pytest.mark.parametrize(
    ("levels", "mark", "level"),
    [
        ("", "Ready", Level.LOOK),
        ('"unusual" = "holds"', "Held", Level.MAY_BE_RELEASED),
        ('"unusual" = "off"', "Ready", None),
        ('"unusual" = "look"', "Ready", Level.LOOK),
    ],
)
def test_a_round_sets_what_a_finding_does(levels, mark, level):
    found = _computed({"row": ["Bo", "902-555-0111", "C1", "9000"], "recipe": f"[checks]\n{levels}"})
    assert (found.marks[1], found.levels.get("unusual")) == (mark, level)
    assert (("unusual" in found.by_check), found.marks.count("Held")) == (level is not None, int(mark == "Held"))


@pytest.mark.parametrize("key", ["number", "empty", "no more texts", "too long"])
def test_what_no_round_may_switch_off_stays_and_says_so(key):
    levels = recipe_from_toml(f'[checks]\n"{key}" = "off"').checks
    assert check_of(key).level_for(levels) is Level.HOLDS
    with pytest.raises(RecipeError, match=r"always holds"):
        refuse_levels(levels)
    with pytest.raises(RecipeError, match=r'no check called "unusaul".*"unusual"'):
        refuse_levels(recipe_from_toml('[checks]\n"unusaul" = "off"').checks)


def test_a_row_without_a_text_stays_held_whatever_is_switched_off():
    row = ["Bo", "902-555-0111", "", "20"]
    found = _computed({"row": row, "recipe": '[checks]\n"blank" = "off"\n"unreadable" = "off"'})
    assert (found.marks[1], found.reason(1)) == ("Held", "no text can be made: Berth is blank")


def test_what_holds_comes_first_and_a_row_it_holds_is_not_looked_at_again():
    assert [check.level.holds for check in CHECKS] == sorted((c.level.holds for c in CHECKS), reverse=True)
    found = _computed({"row": ["Zoë", "902-555-01", "", "0"]})
    assert [finding.check for finding in found.by_row[1]] == ["number"]


def test_a_finding_about_a_cell_bears_the_code_of_the_cells_own_reason():
    recipe = recipe_from_toml(
        'wording = "{Due} {Late}"\n[columns.Due]\nrole = "money"\n[columns.Late]\nformula = "{Length} / 0"\n'
    )
    sheet = Sheet(("Mobile", "Due", "Length"), [("902-555-0111", "oops", "5"), ("902-555-0112", "9.00", "5")])
    found = Computed(Composer(Readings(sheet), recipe)).by_check["unreadable"]
    assert [finding.reason["because"] for finding in found] == ["cell is something else", "formula error"]
    assert [finding.reason.code for finding in found] == ["cell unreadable", "formula without value"]
