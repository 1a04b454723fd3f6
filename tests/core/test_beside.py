"""Beside last time: which rows belong together, and what of them is worth a look."""

from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.rounds.beside import NO_AMOUNT, SEVERAL, Beside, Stood, as_said, beside

QUARTER = Decimal("0.25")


def stood(code, amount="100", number="1", row=0, name=""):
    codes = (code,) if code else ()
    return Stood(row, name, f"+190255501{number:0>2}", codes, None if amount is None else Decimal(amount), "")


CASES = {
    "the same": ([stood("A1")], [stood("A1")], [(Beside.SAME, 0)]),
    # Exactly by the share is not more than the share.
    "a quarter more": ([stood("A1", "125")], [stood("A1")], [(Beside.SAME, 25)]),
    "a cent over a quarter": ([stood("A1", "125.01")], [stood("A1")], [(Beside.CHANGED, 25)]),
    "half of it": ([stood("A1", "50")], [stood("A1")], [(Beside.CHANGED, -50)]),
    "from nothing": ([stood("A1", "50")], [stood("A1", "0")], [(Beside.CHANGED, None)]),
    "nothing twice": ([stood("A1", "0")], [stood("A1", "0")], [(Beside.SAME, None)]),
    "to nothing": ([stood("A1", "0")], [stood("A1", "80")], [(Beside.CHANGED, -100)]),
    "a credit": ([stood("A1", "-20")], [stood("A1", "-10")], [(Beside.CHANGED, -100)]),
    "the right amount on another number": ([stood("A1", number="2")], [stood("A1")], [(Beside.OTHER_NUMBER, 0)]),
    "another name at the same berth": ([stood("A1", name="Ada")], [stood("A1", name="Bo")], [(Beside.OTHER_NAME, 0)]),
    "the same name, written otherwise": (
        [stood("A1", name="ADA  Quill")],
        [stood("A1", name="Ada Quill")],
        [(Beside.SAME, 0)],
    ),
    "no name then": ([stood("A1", name="Ada")], [stood("A1")], [(Beside.SAME, 0)]),
    "by number where no reference is": ([stood("", "101")], [stood("")], [(Beside.SAME, 1)]),
    "a berth changed": ([stood("B2")], [stood("B1")], [(Beside.SAME, 0)]),
    "another berth and another number": (
        [stood("B2", number="2")],
        [stood("B1")],
        [(Beside.NEW, None), (Beside.GONE, None)],
    ),
    "no amount then": ([stood("A1")], [stood("A1", None)], [(Beside.UNCLEAR, None)]),
    "twice now": (
        [stood("A1"), stood("A1", row=1)],
        [stood("A1")],
        [(Beside.UNCLEAR, None)] * 3,
    ),
    # Two boats of one holder: each has its own reference, so their number matches nothing that is left.
    "one number, two references": (
        [stood("A1"), stood("A2", "7", row=1)],
        [stood("A1"), stood("A2", "7", row=1)],
        [(Beside.SAME, 0)] * 2,
    ),
}


@pytest.mark.parametrize(("now", "before", "found"), CASES.values(), ids=CASES)
def test_beside_last_time(now, before, found):
    pairs = beside(now, before, QUARTER)
    assert [(p.kind, None if p.share is None else round(p.share * 100)) for p in pairs] == found
    assert all(bool(p.why) == (p.kind is Beside.UNCLEAR) for p in pairs)
    assert {p.why for p in pairs} <= {"", SEVERAL, NO_AMOUNT}


@pytest.mark.parametrize(
    ("shown", "text", "said"),
    [
        ("$50.00", "Hello Bo, $50.00 to pay.", True),
        ("$50.00", "Hello Bo, $51.00 to pay.", False),
        ("$5.00", "Hello Bo, $5.005 to pay.", False),
        ("5,00\u00a0$", "Bonjour Bo, 5,00\u00a0$ à payer.", True),
        ("5,00\u00a0$", "Bonjour Bo, 15,00\u00a0$ à payer.", False),
        ("234,00\u00a0$", "Bonjour Bo, 1\u00a0234,00\u00a0$ à payer.", False),
        ("", "Hello Bo, nothing to pay.", False),
    ],
)
def test_an_amount_of_last_time_counts_only_where_the_text_said_it(shown, text, said):
    was = Stood(0, "Bo", "+19025550128", ("a1",), Decimal(5), shown)
    assert as_said(was, text) == (was if said else Stood(0, "Bo", "+19025550128", ("a1",), None, ""))


rows = st.lists(
    st.builds(
        stood,
        st.sampled_from(["", "A1", "A2", "A3"]),
        st.sampled_from(["0", "1", "100", "-3", None]),
        st.sampled_from(["1", "2", "3"]),
        st.integers(0, 9),
    ),
    max_size=6,
)


@given(rows, rows)
def test_no_row_is_lost_and_none_stands_twice(now, before):
    pairs = beside(now, before, QUARTER)
    assert sorted(id(p.now) for p in pairs if p.now) == sorted(map(id, now))
    assert sorted(id(p.before) for p in pairs if p.before) == sorted(map(id, before))
    for p in pairs:
        if p.now and p.before:
            assert p.now.codes == p.before.codes or p.now.number == p.before.number
            assert (p.kind is Beside.OTHER_NUMBER) == (p.now.number != p.before.number)
