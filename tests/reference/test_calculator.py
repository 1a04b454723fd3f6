"""1,888 formulas over all functions, as an office suite's own calculator works them out (calculator.json says which).

It is a stranger's opinion, not a standard. A day is a number there and true is 1, so these are compared as numbers.
Where this program differs, it does so for one of the reasons below; what nobody has given a reason for is a fault.
"""

import json
import re
from datetime import date, datetime, time
from decimal import Decimal
from pathlib import Path

import pytest

from gentle_ledger.core.formulas.bind import bind
from gentle_ledger.core.formulas.parse import FormulaError, parse_formula
from gentle_ledger.core.formulas.registry import FormulaContext
from gentle_ledger.core.formulas.values import ERRORS, Wrong, settled_for_good, wrong_of

PAGE = Path(__file__).parents[2] / "docs" / "formulas.md"
GIVEN = json.loads((Path(__file__).parent / "calculator.json").read_text())
FIGURES = {"Num", "Neg", "Zero"}
CELLS = {
    name: Decimal(cell) if name in FIGURES else date.fromisoformat(cell["date"]) if isinstance(cell, dict) else cell
    for name, cell in GIVEN["columns"].items()
}
AROUND = FormulaContext(today=date(2026, 11, 24), locale="en-US", currency="USD")

# What is held here and has a value there, by words of the reason: a row is rather held than billed by an accident.
HELD = {
    "not a number": "a text or a day among numbers is no 0, and is not passed over",
    "not a date": "a number or a blank is no day",
    "not true or false": "a text or a day is no condition",
    "to rank": "true is neither above nor below a number",
    "is not a pattern": "a pattern that fits no such value is not written out",
    "no result": "0^0 may be 0, 1 or an error (ODF 1.3 part 4, 6.4.6); of an odd root there are several",
    "different signs": "a step of another sign leads away from the number",
    "has no type": "a kind that is no whole number is none",
    "a year of four digits": "the year 26 is not meant",
    "outside the years": "there is no year 0 and none past 9999",
    "not a rate": "nothing would be left after one payment",
    "nothing matches": "true is not 1",
    "no first one": "no characters have no first one",
    "is not a code": "CHAR is for ASCII; UNICHAR for all others",
    "not the code point": "half a pair is no character",
    "a division by 0": "an error is not asked whether it is blank",
}

# What has another value here, by formula: the reason holds for all that the pattern fits.
OTHERWISE = {
    r"TRUE\(\)|FALSE\(\)|\{Yes\}": "true and false are no numbers, and are written as TRUE and FALSE",
    r"(&|CONCATENATE|TEXTJOIN).*(DATE\(|\{Day\})|\{Day\}.*&": "a day is written as a day, not as a number of days",
    r"1e\d\d": "a number is written out, not in powers of ten",
    r"^(FLOOR|CEILING)\(-": "a negative number has multiples of a step as well",
    r"^(SUM|PRODUCT|AVERAGE|COUNT|MIN|MAX)\(": "a text that is plainly a number is one, as amounts in a text file are",
    r"ß|ﬁ": "capitals of letters without one of their own (Unicode, SpecialCasing)",
    r"^(CODE|UNICODE)\(": "code points are those of Unicode",
    r"^ENCODEURL\(": "a full stop stands for itself in an address (RFC 3986, 2.3); nothing becomes nothing",
    r"^VALUE\(": "digits of any script, groups of two and fractions are read, and no day is a number",
    r"^SEARCH\(\"\"": "no text is found at the first place, as by FIND",
    r"^YEARFRAC\(.*(8;31|2;28|2;29)": "the end of February counts as the 30th in the 30/360 of the United States",
    r"^DATEVALUE\(": "a day that can be read in one way only is read",
    r"^(AND|OR|XOR)\(": "TRUE in a text is true, and blank is false",
    r"^SWITCH\(\{Blank\}": "blank equals 0",
}
# The same for what these cases have none of.
NOT_AMONG_THESE = {
    r"^TEXT\([^;]*;\"[^\"]*#\.#*\"\)": "a decimal mark with no decimals behind it is not written",
    r"^DATEDIF\(.*\"(?:md|yd)\"": "a month without such a day ends with its last one, and days are counted from there",
}


def ours(formula):
    try:
        bound = bind(parse_formula(formula), lambda node: lambda _row: CELLS[node.name], AROUND)
        return settled_for_good(bound(0))
    except ERRORS as fault:
        return wrong_of(fault)
    except FormulaError as fault:
        return Wrong("", fault.what)


def as_there(value):
    """Days as their number, and blank as nothing, so that only values are compared."""
    if isinstance(value, date):
        moment = value if isinstance(value, datetime) else datetime.combine(value, time())
        return (moment - datetime.combine(date(1899, 12, 30), time())).total_seconds() / 86_400
    return float(value) if isinstance(value, Decimal) else value


def agree(found, case):
    if case["kind"] == "error" or isinstance(found, Wrong):
        return case["kind"] == "error" and isinstance(found, Wrong)
    theirs = case["value"]
    if case["kind"] == "date":
        theirs = as_there(datetime.fromisoformat(theirs))
    if found is None:
        return theirs in {0, ""}
    mine = as_there(found)
    if isinstance(mine, float) and isinstance(theirs, (int, float)) and not isinstance(theirs, bool):
        return mine == pytest.approx(theirs, rel=1e-9, abs=1e-9)
    return type(mine) is type(theirs) and mine == theirs


def reason(found, case):
    if isinstance(found, Wrong):
        return next((why for words, why in HELD.items() if words in found.why), None)
    reasons = (OTHERWISE | NOT_AMONG_THESE).items()
    return next((why for pattern, why in reasons if re.search(pattern, case["formula"])), None)


def test_formulas_come_out_as_an_office_suite_works_them_out_or_for_a_reason():
    different = [(case, found) for case in GIVEN["cases"] if not agree(found := ours(case["formula"]), case)]
    unexplained = [(case["formula"], found, case["value"]) for case, found in different if not reason(found, case)]
    assert unexplained == []
    otherwise = [case for case, found in different if not isinstance(found, Wrong)]
    assert len(otherwise) <= 0.04 * len(GIVEN["cases"]), "few of them silently"
    used = {reason(found, case) for case, found in different}
    assert used >= {*OTHERWISE.values()}, "no reason is idle"


def test_the_page_on_differences_has_every_reason_and_no_other():
    rows = re.findall(r"^\| (.+?) \| (.+?) \|$", PAGE.read_text(), re.MULTILINE)
    said = {why for why, section in rows if section not in {"Section", "---"}}
    assert said == {*HELD.values(), *OTHERWISE.values(), *NOT_AMONG_THESE.values()}
