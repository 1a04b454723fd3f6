"""The drawer of wordings: what ships, and how the fields of one find their columns."""

import pytest

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.sms.alphabet import first_beyond
from gentle_ledger.core.sms.parts import measure
from gentle_ledger.core.wording.drawer import SHIPPED, column_for, fields_needed, with_columns
from gentle_ledger.core.wording.parse import parse_wording

LONG = {
    "First name": "Bartholomew-Maximilian",
    "Amount": "$12,345.67",
    "Berth": "C14 and D02",
    "Due date": "September 30, 2026",
    "Day": "September 30, 2026",
    "Boat": "Oystercatcher of Upper Marsh",
}


@pytest.mark.parametrize("shipped", SHIPPED, ids=lambda each: each.key)
def test_what_ships_is_within_two_parts_says_who_writes_and_has_only_known_fields(shipped):
    assert set(fields_needed(shipped.text)) <= set(LONG)
    assert not parse_wording(shipped.text).problems
    text = shipped.text
    for name, value in LONG.items():
        text = text.replace(f"{{{name}}}", value)
    assert measure(text).parts <= 2
    assert first_beyond(text) is None
    assert "Saltmarsh Quay" in text


NAMES = ["Holder", "Given name", "Mobile", "Slip no", "Balance due", "Paid", "Payable until", "Note"]
ROLES = [Role.NAME, Role.NAME, Role.MOBILE, Role.REFERENCE, Role.MONEY, Role.MONEY, Role.DATE, Role.TEXT]


@pytest.mark.parametrize(
    ("field", "column"),
    [
        ("First name", "Given name"),
        ("Amount", "Balance due"),
        ("Due date", "Payable until"),
        ("Berth", "Slip no"),
        ("paid", "Paid"),
        ("Boat", None),
        ("Harbour master", None),
    ],
)
def test_a_field_finds_the_column_that_it_may_mean_and_no_other(field, column):
    assert column_for(field, NAMES, ROLES) == column


def test_an_amount_is_never_a_column_of_words():
    assert column_for("Amount", ["Due", "Total"], [Role.TEXT, Role.MONEY]) == "Total"


def test_fields_become_the_columns_that_were_chosen_and_others_stay():
    text = "Hello {First name}, {amount} ({Amount}) by {Due date} {{Amount}}"
    assert with_columns(text, {"Amount": "To pay", "first name": "Given"}) == (
        "Hello {Given}, {To pay} ({To pay}) by {Due date} {{Amount}}"
    )
    assert fields_needed(text) == ["First name", "amount", "Due date"]
