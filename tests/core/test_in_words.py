"""Conditions in plain words, and those that are not put in any."""

import pytest

from gentle_ledger.core.formulas.in_words import condition_in_words

CASES = [
    ("{Due} = 0", "Due is 0"),
    ("{Due} <= 0", "Due is 0 or less"),
    ("{Days late} > 30", "Days late is more than 30"),
    ("{Due} >= 12.50", "Due is 12.50 or more"),
    ("{Due} < -5", "Due is less than -5"),
    ("{Rate} < 5%", "Rate is less than 5%"),
    ('{Berth} <> "C14"', "Berth is not C14"),
    ('{Email} = ""', "Email is blank"),
    ('{Email} <> ""', "Email is not blank"),
    ("ISBLANK({Email})", "Email is blank"),
    ("NOT(ISBLANK({Email}))", "Email is not blank"),
    ("({Due} = {Paid})", "Due is Paid"),
    ('AND({Due} > 0, {Berth} = "C14")', "Due is more than 0 and Berth is C14"),
    ("OR({Due} = 0, ISBLANK({Due}))", "Due is 0 or Due is blank"),
    # What is not simple is said in no words, rather than in wrong ones.
    ("{Due} * 2 > 5", ""),
    ("{Due} > 1 > 2", ""),
    ("NOT({Due} > 5)", ""),
    ("{Due}", ""),
    ('{Due} > ""', ""),
    ("{Due} =", ""),
    ("", ""),
]


@pytest.mark.parametrize(("formula", "said"), CASES)
def test_a_condition_in_words(formula, said):
    assert condition_in_words(formula) == said
