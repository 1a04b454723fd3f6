"""Keys come first: what is out of date is not counted on, nothing is counted twice, and nothing stale is shown."""

from decimal import Decimal

import pytest

from gentle_ledger.app.counting.jobs import FreezeRows
from gentle_ledger.app.superseded import Superseded, from_the_newest
from gentle_ledger.core.columns.by_row import ByRow
from tests.web.office import WORDING, Office


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
        context.counting.counted(before)
    assert context.counting.counted(context.opened(number)[1]).texts == 1


def test_an_answer_that_is_out_of_date_is_said_to_be(office):
    """The client asks again by this kind; a thread that waited here would be one fewer for the next key."""
    number = office.bring()
    office.app.state.context.opened(number)[1].superseded = True
    for path in ("", "/rows", "/rows/1/standing"):
        problem = office.call("GET", f"/api/rounds/{number}{path}", 409)
        assert (problem["kind"], problem["title"], problem["type"]) == ("superseded", "Conflict", "about:blank")


def test_title_and_pace_count_no_row_anew(office):
    number = office.bring()
    context = office.app.state.context
    counted = context.counting.counted(context.opened(number)[1])
    office.call("PATCH", f"/api/rounds/{number}", json={"title": "Dues", "pace": {"every": 3}})
    assert context.opened(number)[1].counted is counted
    frozen = context.counting.answer(context.opened(number)[1], FreezeRows("UTC"))
    assert (frozen.version, frozen.read) == (context.opened(number)[1].version, counted.read)
    office.call("PATCH", f"/api/rounds/{number}", json={"currency": "USD"})
    assert context.opened(number)[1].counted is not counted


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
    counting = office.app.state.context.counting
    whole = counting.answer

    def slowly(opened, job):
        """The mend comes after the search began with the state from before."""
        monkeypatch.setattr(counting, "answer", whole)
        office.call("PATCH", f"{path}/rows/1/cells", json={"column": "Due", "typed": "999.99"})
        return whole(opened, job)

    monkeypatch.setattr(counting, "answer", slowly)
    assert office.call("GET", f"{path}/rows?words=186", 409)["kind"] == "superseded"
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
