"""Keys come first: long work rests for them, gives up when it is out of date, and is not done twice."""

import threading
from decimal import Decimal

import pytest

from gentle_ledger.app.open_rounds import Superseded, from_the_newest
from gentle_ledger.app.priority import Priority
from gentle_ledger.core.checks import CHECKS
from gentle_ledger.core.columns.by_row import ByRow, CourteousRows
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import Computed, compute_round
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sms.parts import measure
from gentle_ledger.core.wording.composer import Composer
from tests.web.office import WORDING, Office


def test_long_work_rests_while_short_work_is_under_way():
    priority = Priority()
    went_on = threading.Event()
    with priority.short(), priority.short():
        rested = threading.Thread(target=lambda: (priority.give_way(), went_on.set()))
        rested.start()
        assert not went_on.wait(0.3)
    assert went_on.wait(5)
    rested.join()


def test_no_more_than_a_few_rows_are_worked_on_between_two_calls(monkeypatch):
    """Measuring the texts, and each look that a check takes at the rows."""
    rows = [(f"P{i}", f"902-555-01{i % 100:02}", "1.50") for i in range(320)]
    composer = Composer(Readings(Sheet(("Name", "Mobile", "Due"), rows)), Recipe(wording="{Name} {Due}"))
    since, longest = [0], [0]

    def count(text):
        since[0] += 1
        longest[0] = max(longest[0], since[0])
        return measure(text)

    monkeypatch.setattr("gentle_ledger.core.rounds.compute.measure", count)
    computed = Computed(composer, (), (), lambda: since.__setitem__(0, 0))
    assert (longest[0], len(computed)) == (16, 320)
    for check in CHECKS:
        calls, looks = [], []
        for _ in check.find(computed.view, Looks(range(320), lambda c=calls: c.append(1), looks)):
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


def patch_column(call, path):
    call("PATCH", f"{path}/columns", json={"name": "Due", "fallback": "none", "format": "money USD"})


CHANGES = {
    "a mended cell": lambda call, path: call(
        "PATCH", f"{path}/rows/1/cells", json={"column": "Due", "typed": "999.99"}
    ),
    "a mended cell, undone": lambda call, path: (
        call("PATCH", f"{path}/rows/1/cells", json={"column": "Due", "typed": "999.99"}),
        call("PATCH", f"{path}/rows/2/cells", json={"column": "Due", "typed": "1.00"}),
        call("POST", f"{path}/undo"),
    ),
    "done again": lambda call, path: (
        call("PATCH", f"{path}/rows/1/cells", json={"column": "Due", "typed": "999.99"}),
        call("POST", f"{path}/undo"),
        call("POST", f"{path}/redo"),
    ),
    "a new row": lambda call, path: (
        call("POST", f"{path}/rows", 201),
        call("PATCH", f"{path}/rows/4/cells", json={"column": "Mobile", "typed": "902-555-0177"}),
    ),
    "another number": lambda call, path: call(
        "PATCH", f"{path}/rows/1/cells", json={"column": "Mobile", "typed": "902-555-0199"}
    ),
    "a row left out": lambda call, path: call("PATCH", f"{path}/rows/1", json={"left_out": True}),
    "the wording": lambda call, path: call("PUT", f"{path}/wording", json={"wording": "Hey {Due}", "row": 1}),
    "a column": patch_column,
    "a formula": lambda call, path: call(
        "PUT", f"{path}/columns/computed", json={"name": "Twice", "formula": "{Due}*2", "format": "money"}
    ),
    "the currency": lambda call, path: call("PATCH", path, json={"currency": "USD"}),
    "a newer version": lambda call, path: call(
        "POST",
        f"{path}/newer",
        files={"file": ("b.csv", "First name,Mobile,Berth,Due\nInes,902-555-0111,C14,7.00\n")},
        data={"key": "Mobile", "version": call("GET", path)["version"]},
    ),
}


@pytest.mark.parametrize("change", CHANGES.values(), ids=CHANGES.keys())
@pytest.mark.parametrize("also_here", [False, True], ids=["", "changed here as well"])
def test_what_a_second_copy_changed_is_shown_sealed_and_frozen_everywhere(tmp_path, office, change, also_here):
    """Two copies of the program on one file: neither may show, seal or freeze what the other one changed since."""
    number = office.bring()
    path = f"/api/rounds/{number}"
    office.call("PUT", f"{path}/wording", json={"wording": WORDING, "row": 1})
    office.call("PATCH", f"{path}/columns", json={"name": "First name", "fallback": "there"})
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    office.call("GET", f"{path}/rows?words=186")
    second = Office(tmp_path)
    second.call("GET", f"{path}/rows")
    change(second.call, path)
    if also_here:
        office.call("PATCH", path, json={"title": "Another name"})
    fresh = Office(tmp_path)
    for what in ("rows", "rows?words=999", "rows?words=186", "rows/1/slip", "confirmation"):
        expected = fresh.call("GET", f"{path}/{what}")
        assert office.call("GET", f"{path}/{what}") == expected
        assert second.call("GET", f"{path}/{what}") == expected
    if fresh.call("GET", f"{path}/confirmation")["seal"] != seal:
        office.call("POST", f"{path}/start", 409, json={"seal": seal})
    texts = [row["text"] for row in texts_of(fresh, path)]
    office.call("POST", f"{path}/start", json={"seal": fresh.call("GET", f"{path}/confirmation")["seal"]})
    assert [row["text"] for row in texts_of(office, path)] == texts
    for each in (second, fresh):
        each.app.state.context.database.close()


def texts_of(some, path):
    """The texts of a round as its marked sheet has them."""
    import csv
    import io

    answer = some.client.get(f"{path}/marked-sheet.csv")
    return [{"text": row["Text"]} for row in csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig")))]


def test_a_search_under_way_does_not_keep_the_cells_from_before_a_mend(office, monkeypatch):
    number = office.bring()
    path = f"/api/rounds/{number}"
    office.call("GET", f"{path}/rows")
    desks = office.app.state.context.rounds
    whole = desks.search

    def slowly(state, words):
        """The mend comes after the search began with the state from before."""
        monkeypatch.setattr(desks, "search", whole)
        office.call("PATCH", f"{path}/rows/1/cells", json={"column": "Due", "typed": "999.99"})
        return whole(state, words)

    monkeypatch.setattr(desks, "search", slowly)
    office.client.get(f"{path}/rows?words=186")
    assert office.call("GET", f"{path}/rows?words=999")["total"] == 1
    assert office.call("GET", f"{path}/rows?words=186")["total"] == 0


def test_a_wording_is_not_replaced_by_a_window_that_is_behind(office):
    number = office.bring()
    path = f"/api/rounds/{number}/wording"
    office.call("PUT", path, json={"wording": "Hello", "was": "", "row": 1})
    behind = office.call("PUT", path, 409, json={"wording": "Hey", "was": "", "row": 1})
    assert (behind["kind"], behind["theirs"]) == ("behind", "Hello")
    assert office.call("GET", f"/api/rounds/{number}")["wording"] == "Hello"
    office.call("PUT", path, json={"wording": "Hello", "was": "long ago", "row": 1})
    office.call("PUT", path, json={"wording": "Hey", "was": "Hello", "row": 1})
    assert office.call("GET", f"/api/rounds/{number}")["wording"] == "Hey"


def test_what_a_link_opens_is_what_is_shown_of_it(office):
    """Combined rows: the link bears the sum, and opens with the sum."""
    number = office.bring("Name,Mobile,Due\nInes,902-555-0101,242.00\nInes,902-555-0101,100.00\nBo,902-555-0102,5.00\n")
    path = f"/api/rounds/{number}"
    link = {"name": "Link", "template": "https://pay.saltmarsh.example/{?Due}"}
    office.call("PUT", f"{path}/columns/computed", json=link)
    office.call("PATCH", path, json={"combine": {"by": "Mobile", "columns": {"Due": "sum", "Link": "first"}}})
    office.call("PUT", f"{path}/wording", json={"wording": "{Name}: {Due}, {Link}", "row": 1})
    for row in (1, 2, 3):
        runs = [run for part in office.call("GET", f"{path}/rows/{row}/slip")["parts"] for run in part]
        links = [run for run in runs if run["opens"]]
        assert links
        assert all(run["opens"] == run["text"] for run in links)
