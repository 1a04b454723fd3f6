"""Phone numbers: what offices type, and the numbering plans' own examples."""

import random
import re
import tomllib
from datetime import date
from decimal import Decimal
from pathlib import Path

import phonenumbers
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.phones import countries_of, country_of, tidy_number
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.model import Sheet

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


COUNTRIES = list(map("".join, zip(*[iter("CAUSGBDEFRESITNLPTIEAUNZNOSEDKFIPLCHATBE")] * 2, strict=True)))


def spoilt(typed, rng):
    """A number as it is typed with a digit too many or too few, or with what is dialled in front of it.

    No 0 in front of another one: behind 00 a number is one of another country by the plan itself.
    """
    at = rng.choice([i for i, c in enumerate(typed) if c.isdigit()])
    more, less = typed[:at] + str(rng.randrange(10)) + typed[at:], typed[:at] + typed[at + 1 :]
    fronts = [front + typed for front in ("9 ", "1 ", "9 1 ", "7", "" if typed[0] == "0" else "0")]
    return rng.choice((more, less, typed[:at] + typed[at] + typed[at:], *fronts))


@pytest.mark.parametrize("region", COUNTRIES)
def test_no_spoilt_number_is_ready_and_no_right_one_is_held(region):
    """100 mobile numbers a country as its own plan has them (phonenumbers), every fifth spoilt: 2,000 in all."""
    rng = random.Random(region)
    example = phonenumbers.example_number_for_type(region, phonenumbers.PhoneNumberType.MOBILE)
    numbers = set()
    while len(numbers) < 100:
        other = phonenumbers.PhoneNumber()
        other.merge_from(example)
        other.national_number = example.national_number // 10_000 * 10_000 + rng.randrange(10_000)
        if phonenumbers.is_valid_number(other):
            numbers.add(phonenumbers.format_number(other, phonenumbers.PhoneNumberFormat.E164))
    rows, truth = [], sorted(numbers)
    for i, e164 in enumerate(truth):
        way = phonenumbers.PhoneNumberFormat.NATIONAL
        typed = phonenumbers.format_number(phonenumbers.parse(e164), way)
        typed = re.sub(r"\D", "", typed) if i % 2 else typed
        rows.append((spoilt(typed, rng) if i % 5 == 0 else typed,))
    found = compute_round(Sheet(("Mobile",), rows), Recipe(wording="Hello", region=region, countries=tuple(COUNTRIES)))
    for i, e164 in enumerate(truth):
        if i % 5:
            assert (found.marks[i], found.numbers[i].e164) == ("Ready", e164)
        elif found.marks[i] == "Ready":
            assert found.numbers[i].e164 == e164, (rows[i], e164)
