"""The terms of a line: what a part costs to each country, and when no cost can be said."""

from decimal import Decimal

import pytest
from pydantic import ValidationError

from gentle_ledger.core.checks import check_of
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.terms import LineTerms
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer

AT_HOME = LineTerms(price_per_part=Decimal("0.04"))
BY_COUNTRY = LineTerms(price_per_part=Decimal("0.04"), prices={"US": Decimal("0.075")})
ONE_COUNTRY = LineTerms(prices={"CA": Decimal("0.04")})


@pytest.mark.parametrize(
    ("terms", "parts", "cost"),
    [
        (LineTerms(), {"CA": 3}, None),
        (AT_HOME, {"CA": 3, "US": 2, "": 1}, "0.24"),
        (BY_COUNTRY, {"CA": 3, "US": 2}, "0.270"),
        (BY_COUNTRY, {"CA": 3}, "0.12"),
        (ONE_COUNTRY, {"CA": 3}, "0.12"),
        # The price to one of the countries is not known: half a sum would be a wrong one.
        (ONE_COUNTRY, {"CA": 3, "US": 1}, None),
        (ONE_COUNTRY, {"CA": 3, "US": 0}, "0.12"),
        (LineTerms(price_per_part=Decimal(0)), {"CA": 3}, "0"),
        (AT_HOME, {}, "0"),
    ],
)
def test_cost(terms, parts, cost):
    assert terms.cost(parts) == (None if cost is None else Decimal(cost))


@pytest.mark.parametrize(
    "wrong", [{"price_per_part": -1}, {"most_parts": 256}, {"most_parts": 0}, {"prices": {"XX": 1}}]
)
def test_terms_that_no_line_has(wrong):
    with pytest.raises(ValidationError):
        LineTerms(**wrong)


@pytest.mark.parametrize(("most", "held"), [(2, [1]), (3, []), (255, [])])
def test_a_text_longer_than_the_line_takes_is_held(most, held):
    sheet = Sheet(("Mobile", "Note"), [("902-555-0128", "x" * 300), ("902-555-0129", "x" * 310)])
    computed = Computed(Composer(Readings(sheet), Recipe(wording="{Note}")), most_parts=most)
    assert [row for row, mark in enumerate(computed.marks) if mark == "Held"] == held
    for finding in computed.by_check.get("too long", []):
        assert finding.reason.sentence == "the text takes 3 parts; the line takes at most 2"
        assert check_of("too long").sentence([finding]).startswith("1 text is longer than 2 parts")
