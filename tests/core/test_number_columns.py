"""Which column has the numbers that texts go to: by its name and its cells, and asked where that is not plain."""

import pytest

from gentle_ledger.core.columns.recognise import numbers_in
from gentle_ledger.core.sheets.model import Sheet

PLAIN = [
    # the names of columns that all have numbers, and the one that texts go to
    ("Mobile",),
    ("Mobile", "Old mobile"),
    ("Cell", "Emergency mobile"),
    ("Cell", "Mobile (spouse)"),
    ("Cell", "Next of kin"),
    ("Phone number", "Fax number"),
    ("Mobile", "Office"),
    ("Mobile", "Phone"),
    ("Phone", "Home phone", "Work phone"),
    ("Mobile", "Mobile 2", "Alternate mobile"),
    ("Handy", "Festnetz", "Alte Handynummer"),
    ("Portable", "Fixe", "Portable du conjoint"),
    ("Móvil", "Casa", "Móvil anterior"),
    ("Phone", "Account"),
    ("Work phone",),
    ("Contact",),
]
ASKED = [
    ("Mobile", "Cell"),
    ("Phone", "Telephone"),
    ("Handy", "Mobil"),
    ("Home phone", "Work phone"),
    ("Old mobile",),
    ("Fax",),
    ("Emergency mobile", "Next of kin"),
    ("Berth key", "Gate code"),
]


def sheet_of(names, *more):
    rows = [tuple(f"{area}-555-01{i}{k}" for k in range(len(names))) for i, area in enumerate(("902", "506", "782"))]
    return Sheet((*names, *more), [(*row, *(None for _ in more)) for row in rows])


@pytest.mark.parametrize("names", PLAIN, ids=" | ".join)
def test_names_say_plainly_which_is_meant_in_any_order(names):
    for order in (names, names[::-1]):
        found = numbers_in(sheet_of(order), "CA")
        assert (order[found.chosen], found.doubtful, found.rivals) == (names[0], False, ())
        assert {order[i] for i in found.others} == set(names[1:])


@pytest.mark.parametrize("names", ASKED, ids=" | ".join)
def test_what_is_not_plain_is_asked(names):
    found = numbers_in(sheet_of(names), "CA")
    assert found.doubtful
    assert {names[i] for i in (found.chosen, *found.rivals)} == set(names)


def test_a_blank_mobile_column_is_not_passed_over_for_another_one():
    found = numbers_in(sheet_of(("Home phone",), "Mobile"), "CA")
    assert (found.chosen, found.rivals, found.doubtful) == (0, (1,), True)
    assert not numbers_in(sheet_of(("Cell",), "Mobile"), "CA").doubtful
    same = [("902-555-0101", "902-555-0101"), ("902-555-0102", "902-555-0102")]
    assert not numbers_in(Sheet(("Mobile", "Cell"), same), "CA").doubtful
