"""Phone numbers: what offices type, and the numbering plans' own examples."""

import tomllib
from datetime import date
from decimal import Decimal
from pathlib import Path

import phonenumbers
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.phones import countries_of, country_of, tidy_number

CASES = tomllib.loads((Path(__file__).parent / "cases" / "numbers.toml").read_text())["case"]


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["why"])
def test_as_typed(case):
    found = tidy_number(case["typed"], "CA")
    assert found.e164 == case.get("e164", "")
    assert case.get("problem", "") in (found.problem.sentence if found.problem else "")
    assert bool(found.problem) == ("problem" in case)


def test_cells_that_are_not_text():
    assert tidy_number(Decimal("19025550128"), "CA").e164 == "+19025550128"
    assert tidy_number(date(2026, 11, 24), "CA").problem
    assert tidy_number(True, "CA").problem


@pytest.mark.parametrize("region", sorted(phonenumbers.SUPPORTED_REGIONS))
def test_example_numbers_of_every_plan(region):
    """`phonenumbers`' own example numbers: a mobile takes texts, a toll-free or premium-rate number does not."""
    takes = (phonenumbers.PhoneNumberType.MOBILE, phonenumbers.PhoneNumberType.FIXED_LINE_OR_MOBILE)
    for kind in (*takes, phonenumbers.PhoneNumberType.TOLL_FREE, phonenumbers.PhoneNumberType.PREMIUM_RATE):
        example = phonenumbers.example_number_for_type(region, kind)
        if example is None:
            continue
        e164 = phonenumbers.format_number(example, phonenumbers.PhoneNumberFormat.E164)
        actual = phonenumbers.number_type(example)
        found = tidy_number(e164, region)
        if kind in takes and actual in takes:
            assert (found.e164, found.problem) == (e164, None)
        elif kind not in takes and actual == kind:
            assert found.problem


@given(st.text(max_size=40))
def test_any_text_ends_in_a_number_or_a_problem(typed):
    found = tidy_number(typed, "CA")
    assert found.e164 or found.problem


def test_countries_of_many_numbers_are_those_of_each():
    """Against the library's own example number of every region there is, and of several in one area code."""
    examples = [
        phonenumbers.format_number(found, phonenumbers.PhoneNumberFormat.E164)
        for region in sorted(phonenumbers.SUPPORTED_REGIONS)
        for kind in (phonenumbers.PhoneNumberType.MOBILE, phonenumbers.PhoneNumberType.FIXED_LINE)
        if (found := phonenumbers.example_number_for_type(region, kind))
    ]
    numbers = [*examples, "+19025550111", "+12075550111", "+19025550112"]
    assert len(examples) > 400
    assert countries_of(numbers) == [country_of(number) for number in numbers]
