"""Counts and lists in sentences, and fields in a wording."""

import pytest

from gentle_ledger.core.cells.words import clipped, count, listed, small
from gentle_ledger.core.wording.parse import parse_wording, unknown_fields


def test_words():
    assert [count(n, "row") for n in (0, 1, 12_000)] == ["0 rows", "1 row", "12,000 rows"]
    assert count(2, "number cannot", "numbers cannot") == "2 numbers cannot"
    assert [small(n) for n in (0, 1, 10, 11)] == ["no", "one", "ten", "11"]
    assert listed([]) == ""
    assert listed(["A"]) == "A"
    assert listed(["A", "B", "C"]) == "A, B and C"
    assert listed(list("ABCDEF"), 4) == "A, B, C, D and 2 more"
    assert clipped("a\n  b") == "a b"
    assert clipped("x" * 50) == "x" * 39 + "…"


WORDINGS = [
    # wording, names of its fields, places of its problems
    ("Hello {First name}, {Due}", ["First name", "Due"], []),
    ("{ first   NAME }", ["first NAME"], []),
    ("no field", [], []),
    ("{}", [], [0]),
    ("a { b", [], [2]),
    ("a } b", [], [2]),
    ("{{Due}}", [], []),
    ("{{{Due}}}", ["Due"], []),
    ("{{Due}", [], [5]),
    ("{ {Due}", ["Due"], [0]),
    ("{Due\n}", [], [0, 5]),
    ("😀{Due", [], [1]),
]


@pytest.mark.parametrize(("wording", "fields", "problems"), WORDINGS, ids=[repr(case[0]) for case in WORDINGS])
def test_wordings(wording, fields, problems):
    found = parse_wording(wording)
    assert [field.name for field in found.fields] == fields
    assert [problem.start for problem in found.problems] == problems
    assert all(problem.message and problem.remedy for problem in found.problems)


def test_unknown_fields_name_the_columns_there_are():
    columns = ("First name", "Due")
    assert unknown_fields(parse_wording("{FIRST  name} {due}"), columns) == []
    (problem,) = unknown_fields(parse_wording("Hi {Debt}"), columns)
    assert (problem.start, problem.end) == (3, 9)
    assert "First name and Due" in problem.remedy


def test_a_wording_without_end_is_refused():
    assert "at most 10,000" in parse_wording("x" * 10_001).problems[0].message
