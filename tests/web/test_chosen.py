"""Sending some rows of a round first, and the others later: what goes, what waits, and that nothing goes twice."""

import pytest

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.rounds.frozen import FrozenRow, those_to_go
from gentle_ledger.core.rounds.marks import PlanMark
from tests.web.office import WORDING

FOUR = "First name,Mobile,Berth,Due\n" + "".join(
    f"{name},902-555-01{20 + i},C{14 + i},{50 + i}.00\n" for i, name in enumerate(("Ines", "Bo", "Ada", "Cy"))
)


def frozen(row, mark=PlanMark.READY, bears=None):
    return FrozenRow(row, f"P{row}", "+19025550128", "Hello", 1, row if bears is None else bears, mark, (), ())


@pytest.mark.parametrize(
    ("chosen", "going"),
    [
        (None, [0, 2, 4]),
        ([2], [2]),
        ([3], [2]),  # a row that goes along stands for the whole text
        ([2, 3], [2]),
        ([1], []),  # held
        ([], []),
        ([99, -1, 4], [4]),  # a row that is not there is none
    ],
)
def test_which_texts_go(chosen, going):
    rows = [frozen(0), frozen(1, PlanMark.HELD), frozen(2), frozen(3, bears=2), frozen(4)]
    assert [row.row for row in those_to_go(rows, chosen)] == going


@pytest.fixture
def ready(office):
    number = office.bring(FOUR)
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
    return f"/api/rounds/{number}"


def confirmed(office, path, rows):
    return office.call("POST", f"{path}/confirmation", json={"rows": rows})


def marks(office, path):
    return [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]]


def test_chosen_rows_go_and_the_others_wait_until_they_are_sent_too(office, ready):
    sums = office.call("POST", f"{ready}/chosen", json={"rows": [2, 4]})
    asked = confirmed(office, ready, [2, 4])
    assert (sums["texts"], asked["texts"], asked["numbers"], asked["waiting"]) == (2, 2, 2, 2)
    assert {each["slip"]["row"] for each in asked["slips"]} <= {2, 4}
    office.call("POST", f"{ready}/start", json={"seal": asked["seal"], "rows": [2, 4]})
    office.run()
    assert marks(office, ready) == ["Ready", "Sent", "Ready", "Sent"]
    tally = office.call("GET", f"{ready}/tally")
    assert (tally["stage"], tally["strokes"], tally["ready"]) == ("finished", "ss", 2)
    assert tally["sentence"] == "All 2 texts sent. 2 still ready, not sent."

    later = confirmed(office, ready, [1, 2])
    assert (later["texts"], later["waiting"], later["locked_at"] is None) == (1, 1, False)
    more = {"which": "ready", "rows": [1, 2], "texts": 1}
    office.again(ready, **more)
    office.run()
    assert marks(office, ready) == ["Sent", "Sent", "Ready", "Sent"]
    # What was chosen is sent by now: the same press again sends nothing.
    office.again(ready, 409, **more)
    office.again(ready, which="ready", texts=1)
    office.run()
    assert marks(office, ready) == ["Sent"] * 4
    assert sorted(number for number, _ in office.carrier.arrived) == [f"+190255501{20 + i}" for i in range(4)]
    assert office.call("GET", f"{ready}/tally")["sentence"] == "All 4 texts sent."


@pytest.mark.parametrize("rows", [None, [2], [2, 3, 4], [1, 3]])
def test_other_rows_than_those_that_were_read_are_not_sent(office, ready, rows):
    seal = confirmed(office, ready, [2, 4])["seal"]
    office.call("POST", f"{ready}/start", 409, json={"seal": seal, "rows": rows})
    assert office.call("GET", ready)["stage"] == "preparing"


def test_what_waits_gives_way_to_another_round_and_to_who_asked_for_no_more(office, ready):
    seal = confirmed(office, ready, [4])["seal"]
    office.call("POST", f"{ready}/start", json={"seal": seal, "rows": [4]})
    office.run()
    second = office.bring("\n".join(FOUR.splitlines()[:2]) + "\n")
    office.call("PUT", f"/api/rounds/{second}/wording", json={"wording": WORDING, "row": 1})
    seal = confirmed(office, f"/api/rounds/{second}", None)["seal"]
    office.call("POST", f"/api/rounds/{second}/start", json={"seal": seal})
    office.run()
    office.call(
        "POST", "/api/no-more-texts", 201, json={"number": "902-555-0121", "on": "2026-11-20", "how": "by phone"}
    )
    assert marks(office, ready) == ["Ready", "Left out", "Ready", "Sent"]
    assert confirmed(office, ready, None)["texts"] == 1
    office.again(ready, 409, which="ready", texts=2)
    office.again(ready, which="ready", texts=1)
    office.run()
    assert len(office.carrier.arrived) == len(set(office.carrier.arrived)) == 3


def test_a_paused_round_is_not_set_going_by_sending_more_of_it(office, ready):
    seal = confirmed(office, ready, [4])["seal"]
    office.call("POST", f"{ready}/start", json={"seal": seal, "rows": [4]})
    office.call("POST", f"{ready}/pause")
    office.again(ready, 409, which="ready", texts=3)
    office.run()
    assert office.carrier.arrived == []


def test_what_waits_can_be_left_out_and_taken_up_again(office, ready):
    office.call("POST", f"{ready}/keep-back", 409)
    seal = confirmed(office, ready, [2])["seal"]
    office.call("POST", f"{ready}/start", json={"seal": seal, "rows": [2]})
    office.run()
    tally = office.call("POST", f"{ready}/keep-back")
    assert (tally["ready"], tally["may_take_up"]) == (0, 3)
    assert marks(office, ready) == ["Left out", "Sent", "Left out", "Left out"]
    office.again(ready, 409, which="ready", texts=3)
    # Brought in again, the marked sheet leaves out what was sent; what was kept back may be mended and sent there.
    sheet = office.client.get(f"{ready}/marked-sheet.csv").text
    second = office.bring(sheet, "marked.csv")
    office.call("PUT", f"/api/rounds/{second}/wording", json={"wording": f"{WORDING} Sorry.", "row": 1})
    assert marks(office, f"/api/rounds/{second}") == ["Ready", "Left out", "Ready", "Ready"]
    office.again(ready, which="stopped", texts=3)
    office.run()
    assert len(office.carrier.arrived) == len(set(office.carrier.arrived)) == 4


@pytest.mark.parametrize(
    ("wording", "berth", "later"),
    [
        (f"{WORDING} Sorry for the mistake.", "C14", 2),  # mended and sent anew: the old one does not go as well
        ("Hello {First name}, the slip is closed on Friday.", "Z99", 3),  # of another matter: both go
    ],
)
def test_what_waits_gives_way_to_a_mended_round_about_the_same(office, ready, wording, berth, later):
    seal = confirmed(office, ready, [4])["seal"]
    office.call("POST", f"{ready}/start", json={"seal": seal, "rows": [4]})
    office.run()
    second = office.bring(f"First name,Mobile,Berth,Due\nInes,902-555-0120,{berth},55.00\n")
    office.call("PUT", f"/api/rounds/{second}/wording", json={"wording": wording, "row": 1})
    seal = confirmed(office, f"/api/rounds/{second}", None)["seal"]
    office.call("POST", f"/api/rounds/{second}/start", json={"seal": seal})
    asked = confirmed(office, ready, None)
    assert (asked["texts"], asked["superseded"], asked["given_way"]) == (later, 3 - later, 0)
    office.again(ready, 409, which="ready", texts=4 - later + 1)
    # Whoever says so sends them all the same.
    asked = office.call("POST", f"{ready}/confirmation", json={"rows": None, "all_the_same": True})
    assert asked["texts"] == 3
    office.again(ready, which="ready", texts=later)
    office.run()
    assert len(office.carrier.arrived) == len(set(office.carrier.arrived)) == 2 + later


def test_an_earlier_journal_still_says_what_was_tried_again():
    assert Reason("sending again", ("texts", "failed"), (3, True)).sentence == "3 texts tried again"
    assert Reason("sending again", ("texts", "failed"), (3, False)).sentence == "3 texts taken up again"
