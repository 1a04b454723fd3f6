"""Never twice across rounds either: what another round sent, or is to send, to the same number."""

from datetime import timedelta

import pytest

from tests.sending.world import Refused
from tests.web.office import WORDING, Office

BOTH = "First name,Mobile,Berth,Due\nInes,902-555-0111,C14,186.40\nBo,902-555-0128,C15,92.10\n"


def prepared(office, text=BOTH, wording=WORDING, **setup):
    number = office.bring(text)
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": wording, "row": 1})
    if setup:
        office.call("PATCH", f"/api/rounds/{number}", json=setup)
    return number


def start(office, number, status=200):
    seal = office.call("GET", f"/api/rounds/{number}/confirmation")["seal"]
    return office.call("POST", f"/api/rounds/{number}/start", status, json={"seal": seal})


def rows_of(office, number):
    return office.call("GET", f"/api/rounds/{number}/rows")["rows"]


def checks_of(office, number):
    return {f["check"]: f["rows"] for f in office.call("GET", f"/api/rounds/{number}")["findings"]}


def test_the_same_sheet_in_a_second_round_is_held_with_where_and_when_it_went(office):
    first = prepared(office)
    start(office, first)
    office.run()
    second = prepared(office)
    rows = rows_of(office, second)
    assert [row["mark"] for row in rows] == ["Held", "Held"]
    assert 'the same text went on 2026-11-24 in row 1 of "November dues"' in rows[0]["reason"]
    assert rows[0]["releasable"]
    office.call("PATCH", f"/api/rounds/{second}/rows/1", json={"released": True, "reason": "asked twice"})
    assert [row["mark"] for row in rows_of(office, second)] == ["Ready", "Held"]


TOGETHER = (
    "First name,Mobile,Due\nInes,902-555-0111,10\nInes,902-555-0111,20\nBo,902-555-0128,oops\nBo,902-555-0128,5\n"
)


def test_releasing_a_row_that_goes_in_anothers_text_releases_that_text(office):
    combine = {"by": "Mobile", "columns": {"Due": "sum"}}
    start(office, prepared(office, TOGETHER, "{First name}: {Due}", combine=combine))
    office.run()
    second = prepared(office, TOGETHER, "{First name}: {Due}", combine=combine)
    rows = rows_of(office, second)
    assert [(row["mark"], row["releasable"]) for row in rows] == [("Held", True)] * 2 + [("Held", False)] * 2
    office.call("PATCH", f"/api/rounds/{second}/rows/4", 404, json={"released": True, "reason": "asked twice"})
    released = office.call("PATCH", f"/api/rounds/{second}/rows/2", json={"released": True, "reason": "asked twice"})
    assert (released["mark"], released["reason"]) == ("Ready", "goes in the text of row 1")
    assert [row["mark"] for row in rows_of(office, second)] == ["Ready", "Ready", "Held", "Held"]
    office.call("PATCH", f"/api/rounds/{second}/rows/2", json={"released": False})
    assert {row["mark"] for row in rows_of(office, second)} == {"Held"}


NEAR_MISSES = [
    # what is otherwise in the second round, its marks, and what is worth a look
    ({}, BOTH, WORDING, ["Held", "Held"], {"gone before": 2}),
    ({}, BOTH.replace("186.40", "186.41"), WORDING, ["Ready", "Held"], {"gone before": 1, "same matter": 1}),
    ({}, BOTH.replace("0111", "0112"), WORDING, ["Ready", "Held"], {"gone before": 1}),
    ({}, BOTH, WORDING + " ", ["Ready", "Ready"], {"same matter": 2}),
    ({}, BOTH.replace("C14", "c14 "), "Hello {First name}", ["Ready", "Ready"], {"same matter": 2}),
    ({}, BOTH.replace("C14", "D02").replace("C15", "D04"), "Hello {First name}", ["Ready", "Ready"], {}),
    ({"repeat_days": 0}, BOTH, WORDING, ["Ready", "Ready"], {}),
]


@pytest.mark.parametrize(("setup", "text", "wording", "marks", "checks"), NEAR_MISSES)
def test_only_the_same_words_to_the_same_number_are_held(office, setup, text, wording, marks, checks):
    start(office, prepared(office))
    office.run()
    second = prepared(office, text, wording, **setup)
    assert [row["mark"] for row in rows_of(office, second)] == marks
    found = {k: n for k, n in checks_of(office, second).items() if k in {"gone before", "same matter"}}
    assert found == checks


@pytest.mark.parametrize(("days", "mark"), [(29, "Held"), (31, "Ready")])
def test_it_counts_within_the_days_that_are_set(office, days, mark):
    start(office, prepared(office))
    office.run()
    office.clock.passed += timedelta(days=days).total_seconds()
    assert {row["mark"] for row in rows_of(office, prepared(office))} == {mark}


def test_what_failed_or_was_stopped_did_not_go(office):
    office.carrier.answers["+19025550111"] = [Refused("the number is not in use", own=True)]
    first = prepared(office)
    start(office, first)
    office.sender.act()
    office.call("POST", f"/api/rounds/{first}/stop")
    assert [row["mark"] for row in rows_of(office, prepared(office))] == ["Ready", "Ready"]


def test_what_is_still_to_go_in_a_started_round_counts_as_well(office):
    first, second = prepared(office), prepared(office)
    seal = office.call("GET", f"/api/rounds/{second}/confirmation")["seal"]
    assert {row["mark"] for row in rows_of(office, second)} == {"Ready"}
    start(office, first)
    refused = office.call("POST", f"/api/rounds/{second}/start", 409, json={"seal": seal})
    assert "nothing was sent" in refused["detail"]
    rows = rows_of(office, second)
    assert [row["mark"] for row in rows] == ["Held", "Held"]
    assert "is to go in row 1" in rows[0]["reason"]
    office.run()
    assert len(office.carrier.arrived) == 2


@pytest.mark.parametrize("copies", [1, 2])
def test_a_round_that_starts_between_the_look_and_the_press_is_noticed(tmp_path, office, copies):
    """In this copy of the program and in another one."""
    other = office if copies == 1 else Office(tmp_path)
    first, second = prepared(office), prepared(office)
    seals = [office.call("GET", f"/api/rounds/{number}/confirmation")["seal"] for number in (first, second)]
    other.call("POST", f"/api/rounds/{first}/start", json={"seal": seals[0]})
    office.call("POST", f"/api/rounds/{second}/start", 409, json={"seal": seals[1]})
    if copies == 2:
        other.app.state.context.database.close()


def test_a_start_elsewhere_that_concerns_nobody_here_changes_nothing(office):
    first, second = prepared(office), prepared(office, BOTH.replace("902-", "506-"))
    seal = office.call("GET", f"/api/rounds/{second}/confirmation")["seal"]
    start(office, first)
    office.call("POST", f"/api/rounds/{second}/start", json={"seal": seal})


def test_what_stop_kept_back_is_not_sent_after_another_round_has(office):
    first = prepared(office)
    start(office, first)
    office.sender.act()
    office.call("POST", f"/api/rounds/{first}/stop")
    assert office.call("GET", f"/api/rounds/{first}/tally")["may_take_up"] == 1
    second = prepared(office, BOTH.replace("Ines,902-555-0111,C14,186.40\n", ""))
    start(office, second)
    office.run()
    tally = office.call("GET", f"/api/rounds/{first}/tally")
    assert (tally["may_take_up"], tally["sentence"]) == (0, "1 of 2 texts sent, 1 stopped.")
    office.again(f"/api/rounds/{first}", 409, which="stopped", texts=1)
    assert len(office.carrier.arrived) == 2


def test_a_marked_sheet_brought_in_again_sends_nobody_twice(office):
    """Saved after sending and brought in again, with another wording: what was sent is left out, in one press back."""
    office.carrier.answers["+19025550128"] = [Refused("the number is not in use", own=True)]
    first = prepared(office)
    start(office, first)
    office.run()
    for kind in ("csv", "xlsx"):
        marked = office.client.get(f"/api/rounds/{first}/marked-sheet.{kind}").content
        second = office.bring(marked, f"again.{kind}")
        office.call("PUT", f"/api/rounds/{second}/wording", json={"wording": "A second word, {First name}", "row": 1})
        rows = rows_of(office, second)
        assert [row["mark"] for row in rows] == ["Left out", "Ready"]
        assert rows[0]["reason"] == "Mark says that it was sent"
        (column,) = office.call("GET", f"/api/rounds/{second}")["sent_columns"]
        assert (column["column"], column["ours"], column["rows"], column["left_out"]) == ("Mark", True, 1, True)
        say = {"name": "mark", "leave_out": False}
        office.call("POST", f"/api/rounds/{second}/columns/sent", json=say)
        assert [row["mark"] for row in rows_of(office, second)] == ["Ready", "Ready"]
    office.call("POST", f"/api/rounds/{second}/columns/sent", 422, json={"name": "Due", "leave_out": True})


@pytest.mark.parametrize("days", [None, -1, 3_651, 1.5, "thirty"])
def test_what_is_no_number_of_days_does_not_switch_the_look_for_repeats_off(office, days):
    start(office, prepared(office))
    office.run()
    second = prepared(office)
    refused = office.call("PATCH", f"/api/rounds/{second}", 422, json={"repeat_days": days})
    assert refused["detail"].startswith("This cannot be used: repeat days should be ")
    assert [row["mark"] for row in rows_of(office, second)] == ["Held", "Held"]


def test_nothing_from_before_the_start_is_undone_after_it(office):
    number = prepared(office)
    path = f"/api/rounds/{number}"
    office.call("PATCH", f"{path}/rows/1/cells", json={"column": "Due", "typed": "9"})
    start(office, number)
    assert [change["can_be"] for change in office.call("GET", f"{path}/changes")["changes"]] == [None] * 3
    assert "locked since sending started" in office.call("POST", f"{path}/undo", 409)["detail"]
    office.call("PATCH", path, json={"title": "Dues, once more"})
    assert office.call("GET", path)["undo"] == "the title"
    assert office.call("POST", f"{path}/undo")["title"] == "November dues"
    office.call("POST", f"{path}/undo", 409)


@pytest.mark.parametrize(("name", "found"), [("Farida Okafor", 1), ("Ines", 0), ("INES  Wolny", 0)])
def test_a_number_that_was_somebody_else_s_last_time_is_worth_a_look(office, name, found):
    head = "Name,Mobile,Berth,Due\n"
    first = prepared(office, f"{head}Ines Wolny,902-555-0128,C14,186.40\n", "Hello {Name}, {Due} to pay.")
    start(office, first)
    office.run()
    second = prepared(office, f"{head}{name},902-555-0128,C15,90\n", "Hello {Name}, {Due} is open.")
    findings = {each["check"]: each for each in office.call("GET", f"/api/rounds/{second}")["findings"]}
    assert ("other name" in findings) == bool(found)
    if found:
        said = "1 number was texted under another name before (Farida Okafor was Ines Wolny): a column may have slipped"
        assert findings["other name"]["sentence"] == said
