"""Keys come first: long work rests for them, gives up when it is out of date, and is not done twice."""

import threading
from decimal import Decimal

import pytest

from gentle_ledger.core.checks import CHECKS
from gentle_ledger.core.composer import Composer
from gentle_ledger.core.compute import Computed, compute_round
from gentle_ledger.core.recipe import Recipe
from gentle_ledger.core.rows import ByRow, CourteousRows
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sms.parts import measure
from gentle_ledger.core.workings import Workings
from gentle_ledger.web.desks import Superseded, from_the_newest
from gentle_ledger.web.turns import Turns
from tests.web.test_app import WORDING, office

__all__ = ["office"]


def test_long_work_rests_while_short_work_is_under_way():
    turns = Turns()
    went_on = threading.Event()
    with turns.short(), turns.short():
        rested = threading.Thread(target=lambda: (turns.give_way(), went_on.set()))
        rested.start()
        assert not went_on.wait(0.3)
    assert went_on.wait(5)
    rested.join()


def test_no_more_than_a_few_rows_are_worked_on_between_two_calls(monkeypatch):
    """Measuring the texts, and each look that a check takes at the rows."""
    rows = [(f"P{i}", f"902-555-01{i % 100:02}", "1.50") for i in range(320)]
    composer = Composer(Workings(Sheet(("Name", "Mobile", "Due"), rows)), Recipe(wording="{Name} {Due}"))
    since, longest = [0], [0]

    def count(text):
        since[0] += 1
        longest[0] = max(longest[0], since[0])
        return measure(text)

    monkeypatch.setattr("gentle_ledger.core.compute.measure", count)
    computed = Computed(composer, (), (), lambda: since.__setitem__(0, 0))
    assert (longest[0], len(computed)) == (16, 320)
    for check in CHECKS:
        calls, looks = [], []
        for _ in check.find(computed, Looks(range(320), lambda c=calls: c.append(1), looks)):
            pass
        assert len(calls) == 20 * len(looks)


class Looks(CourteousRows):
    """Counts how often the rows are gone through."""

    def __init__(self, rows, give_way, looks):
        super().__init__(rows, give_way)
        self.looks = looks

    def __iter__(self):
        self.looks.append(1)
        return super().__iter__()


def test_what_giving_way_raises_ends_the_work():
    def stop():
        raise Superseded()

    with pytest.raises(Superseded):
        compute_round(Sheet(("Mobile",), [("902-555-0101",)]), Recipe(), give_way=stop)


def test_an_entry_is_worked_out_once_and_only_when_asked_for():
    asked = []
    lazy = ByRow(3, lambda row: asked.append(row) or Decimal(row))
    assert (lazy[2], lazy[2], len(lazy), asked) == (2, 2, 3, [2])


def test_an_answer_begins_anew_when_something_newer_was_typed():
    times = iter((True, True, False))

    @from_the_newest
    def answer(found):
        if next(times):
            raise Superseded()
        return found

    assert answer("newest") == "newest"


def test_a_newer_wording_ends_the_counting_of_the_older(office):
    number = office.bring()
    context = office.app.state.context
    before = context.opened(number)[1]
    answer = office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
    assert answer["version"] == before.version + 1
    with pytest.raises(Superseded):
        before.computed()
    assert context.opened(number)[1].computed().texts[0].startswith("Hello Ines")


def test_an_answer_that_is_out_of_date_is_said_to_be(office):
    """The client asks again by this kind; a thread that waited here would be one fewer for the next key."""
    number = office.bring()
    office.app.state.context.opened(number)[1].superseded = True
    for path in ("", "/rows", "/rows/1/standing"):
        problem = office.call("GET", f"/api/rounds/{number}{path}", 409)
        assert (problem["kind"], problem["title"], problem["type"]) == ("superseded", "Conflict", "about:blank")


def test_title_and_pace_count_no_row_anew(office):
    number = office.bring()
    counted = office.app.state.context.opened(number)[1].computed()
    office.call("PATCH", f"/api/rounds/{number}", json={"title": "Dues", "pace": {"every": 3}})
    assert office.app.state.context.opened(number)[1].counted is counted
    office.call("PATCH", f"/api/rounds/{number}", json={"currency": "USD"})
    assert office.app.state.context.opened(number)[1].counted is not counted


def test_a_slip_needs_no_other_row(office):
    """The slip is there before the round is counted; the standing waits for it."""
    number = office.bring()
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
    slip = office.call("GET", f"/api/rounds/{number}/rows/2/slip")
    assert [run["column"] for run in slip["parts"][0] if run["gap"]] == ["First name"]
    assert office.app.state.context.opened(number)[1].counted is None
    standing = office.call("GET", f"/api/rounds/{number}/rows/2/standing")
    assert (standing["mark"], [f["reason"] for f in standing["findings"]]) == ("Held", ["First name is blank"])
