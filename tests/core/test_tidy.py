"""The numbers of a round in batches, and what is done to a whole batch."""

import pytest

from gentle_ledger.core.cells.phones import tidy_number
from gentle_ledger.core.columns.tidy import Action, batches_of, details_of, mended

CELLS = [
    "902-555-0101",
    "(902) 555 0102",
    "+19025550103",
    "902-555-01",
    "902-555-02",
    "902-555-0104 ext 5",
    "902-555-0105 / 902-555-0106",
    "+46 70-174 06 05",
    None,
    "902-555-0101",
]
NUMBERS = [tidy_number(cell, "CA") for cell in CELLS]
BATCHES = {batch.sentence: batch for batch in batches_of(CELLS, NUMBERS, range(len(CELLS)), "CA")}


def test_groups_say_what_is_wrong_first():
    assert list(BATCHES) == [
        "2 cannot take texts: two digits short for Canada",
        "1 cannot take a text: an extension, so it rings at a desk",
        "1 cannot take a text: two numbers in one cell",
        "1 cannot take a text: no mobile number",
        "2 are the same as another row",
        "3 have no country code: read as Canada",
        "1 is from Sweden",
    ]
    assert BATCHES["2 are the same as another row"].rows == (0, 9)
    assert BATCHES["3 have no country code: read as Canada"].rows == (0, 1, 9)


@pytest.mark.parametrize(
    ("action", "cell", "expected"),
    [
        (Action.FIRST, "902-555-0105 / 902-555-0106", "902-555-0105"),
        (Action.SECOND, "902-555-0105 or 902-555-0106", "902-555-0106"),
        (Action.NO_EXTENSION, "902-555-0104 ext. 5", "902-555-0104"),
        (Action.NO_EXTENSION, "902-555-0104 x5", "902-555-0104"),
        (Action.READ_AS, "070-174 06 05", "+46701740605"),
    ],
)
def test_a_group_is_mended_at_once(action, cell, expected):
    assert mended([cell, None], [0, 1], action, "SE") == {0: expected}


@pytest.mark.parametrize("typed", ["0046701740605", "01146701740605", "46701740605", "+46 70-174 06 05"])
def test_numbers_of_other_countries_carry_their_code(typed):
    """+, 00, the North American 011, or nothing in front. The number is one Sweden reserves for fiction."""
    number = tidy_number(typed, "CA")
    assert (number.e164, number.problem) == ("+46701740605", None)
    details = details_of(number.e164)
    assert (details.country, details.kind, details.zones) == ("SE", "mobile", ("Europe/Stockholm",))


def test_a_slip_at_home_does_not_become_a_number_abroad():
    for typed in ("902555010", "90255501011", "555-0101"):
        assert tidy_number(typed, "CA").e164 == ""


def test_a_cell_full_of_digits_is_no_work():
    assert "is not a phone number" in tidy_number("1" * 30_000 + ", " + "2" * 2_000, "CA").problem.sentence
