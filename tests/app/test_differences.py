"""What was changed, as a clerk reads it."""

from datetime import UTC, datetime, timedelta

import pytest

from gentle_ledger.app.differences import differences
from gentle_ledger.web.rounds.schemas import ChangedPart, ChangeOut
from gentle_ledger.web.rounds.view import as_deeds

CASES = [
    ({"pace": {"every": 12.0}}, {"pace": {"every": 7.5}}, [("the gap", "12 s", "7.5 s")]),
    ({"pace": {"per_day": [20]}}, {"pace": {"per_day": [20, 1500]}}, [("texts a day", "20", "20, then 1,500")]),
    ({"pace": {"per_day": [20]}}, {"pace": {"per_day": []}}, [("texts a day", "20", "no cap")]),
    ({"pace": {"after": 0}}, {"pace": {"after": 50}}, [("a rest after", "none", "50 texts")]),
    ({"pace": {"late": None}}, {"pace": {"late": 90.0}}, [("left out when late by", "", "90 min")]),
    (
        {"pace": {"hours": None}},
        {"pace": {"hours": {"from": "09:00", "days": ["mon", "tue"]}}},
        [("hours from", "", "09:00"), ("days of the week", "", "mon, tue")],
    ),
    ({"combine": None}, {"combine": {"by": "Mobile"}}, [("rows of one person combined by", "", "Mobile")]),
    (
        {"combine": {"by": "Mobile", "columns": {}}},
        {"combine": {"by": "Mobile", "columns": {"Due": "sum"}}},
        [("combining, Due", "", "sum")],
    ),
    (
        {"columns": {"Due": {"role": "text"}}},
        {"columns": {"Due": {"role": "money"}}},
        [("Due, what it is for", "text", "money")],
    ),
    ({"checks": {}}, {"checks": {"unusual": "holds"}}, [("the check “unusual”", "", "holds")]),
    ({"leave_out": []}, {"leave_out": [{"when": "{Due} = 0"}]}, [("rule 1, when", "", "{Due} = 0")]),
    ({"plain_signs": True}, {"plain_signs": False}, [("signs written plainly", "yes", "no")]),
    ({"title": "A"}, {"title": "A"}, []),
]


@pytest.mark.parametrize(("before", "after", "said"), CASES, ids=str)
def test_each_place_is_named_as_a_clerk_would(before, after, said):
    assert list(differences(before, after)) == said


AT = datetime(2026, 12, 1, 9, 0, tzinfo=UTC)


def change(number, before, after, *, minutes=0.0, where="the gap", undone=None):
    at = AT + timedelta(minutes=minutes)
    parts = [ChangedPart(where=where, before=before, after=after)]
    kept = {"id": number, "at": at, "by": "this machine", "what": "The pace", "parts": parts, "more": 0}
    return ChangeOut(**kept, undone_at=undone, undone_by=None, can_be="redone" if undone else "undone")


@pytest.mark.parametrize(
    ("changes", "shown"),
    [
        ([change(2, "11 s", "12 s", minutes=1), change(1, "10 s", "11 s")], [(1, "10 s", "12 s")]),
        ([change(2, "11 s", "12 s", minutes=4), change(1, "10 s", "11 s")], [(2, "11 s", "12 s"), (1, "10 s", "11 s")]),
        ([change(2, "1", "2", where="the rest"), change(1, "10 s", "11 s")], [(2, "1", "2"), (1, "10 s", "11 s")]),
        ([change(2, "11 s", "12 s", undone=AT), change(1, "10 s", "11 s")], [(2, "11 s", "12 s"), (1, "10 s", "11 s")]),
        ([change(2, "11 s", "10 s"), change(1, "10 s", "11 s")], [(2, "11 s", "10 s"), (1, "10 s", "11 s")]),
    ],
)
def test_small_steps_of_one_deed_are_one_line(changes, shown):
    found = as_deeds(changes)
    assert [(each.id, each.parts[0].before, each.parts[0].after) for each in found] == shown
