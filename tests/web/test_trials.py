"""One to myself over HTTP: to a number of one's own, of the text that was read, and never to a recipient by mistake."""

import pytest

from tests.web.office import WORDING

OWN = "+19025550199"


@pytest.fixture
def ready(office):
    number = office.bring()
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
    return f"/api/rounds/{number}"


def ask(office, path, number="902-555-0199", status=201, row=1, **more):
    seen = office.call("GET", f"{path}/look/{row}")["fingerprint"]
    return office.call(
        "POST", f"{path}/trials", status, json={"row": row, "number": number, "fingerprint": seen, **more}
    )


def test_the_text_of_a_row_goes_to_ones_own_number_and_stands_in_no_history(office, ready):
    before = office.call("GET", f"{ready}/confirmation")
    asked = ask(office, ready)
    assert [(t["row"], t["number"], t["mark"]) for t in asked["trials"]] == [(1, OWN, "To go")]
    office.run()
    kept = office.call("GET", f"{ready}/trials")
    assert (kept["trials"][0]["mark"], kept["own"], kept["left"]) == ("Sent", OWN, 9)
    assert office.carrier.arrived == [(OWN, "Hello Ines, berth C14 has $186.40 to pay.")]
    desk, after = office.call("GET", ready), office.call("GET", f"{ready}/confirmation")
    assert (desk["stage"], after["seal"], after["texts"]) == ("preparing", before["seal"], before["texts"])
    assert office.call("GET", f"{ready}/rows/1/standing")["history"] == []
    # The row itself is sent all the same: the trial was none of its texts.
    office.call("POST", f"{ready}/start", json={"seal": after["seal"]})
    office.run()
    assert len(office.carrier.arrived) == 1 + after["texts"]


@pytest.mark.parametrize(
    ("number", "row", "status", "says"),
    [
        ("902-555-0111", 1, 409, "is the number of row 2"),
        ("902-555-0128", 1, 409, "is the number of row 1, Ines"),
        ("902-555-01", 1, 422, "No text can be sent to this number"),
        ("911", 1, 422, "No text can be sent to this number"),
        ("902-555-0199", 9, 404, "no row 9"),
    ],
)
def test_it_goes_to_nobody_else(office, ready, number, row, status, says):
    seen = office.call("GET", f"{ready}/look/1")["fingerprint"]
    body = {"row": row, "number": number, "fingerprint": seen}
    assert says in office.call("POST", f"{ready}/trials", status, json=body)["detail"]
    office.run()
    assert office.carrier.arrived == []


def test_a_text_that_changed_since_it_was_shown_is_not_sent(office, ready):
    seen = office.call("GET", f"{ready}/look/1")["fingerprint"]
    office.call("PATCH", f"{ready}/rows/1/cells", json={"column": "Due", "typed": "9000"})
    body = {"row": 1, "number": OWN, "fingerprint": seen}
    assert "changed since" in office.call("POST", f"{ready}/trials", 409, json=body)["detail"]
    ask(office, ready)


def test_a_number_of_another_round_is_asked_about_once(office, ready):
    office.started("First name,Mobile,Berth,Due\nAda,902-555-0199,D1,12\n")
    office.run()
    refused = ask(office, ready, status=409)
    assert (refused["kind"], "row 1, Ada" in refused["detail"]) == ("whose number", True)
    ask(office, ready, sure=True)
    office.run()
    office.clock.passed += 60
    office.call("PATCH", f"{ready}/rows/1/cells", json={"column": "Due", "typed": "20"})
    ask(office, ready)
    office.run()
    assert [number for number, _ in office.carrier.arrived].count(OWN) == 3


def test_who_asked_for_no_more_texts_gets_no_trial_either(office, ready):
    asked = {"number": OWN, "on": "2026-11-20", "how": "by phone"}
    office.call("POST", "/api/no-more-texts", 201, json=asked)
    assert "asked for no more" in ask(office, ready, status=409)["detail"]


def test_a_started_round_has_no_trials(office):
    number = office.started()
    body = {"row": 1, "number": OWN, "fingerprint": "0" * 32}
    office.call("POST", f"/api/rounds/{number}/trials", 409, json=body)
