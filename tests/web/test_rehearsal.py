"""Rehearsals over HTTP: nothing is sent, and a round says whether it changed since."""

import pytest

from tests.servers import until
from tests.web.office import WORDING


@pytest.fixture
def ready(office):
    number = office.bring()
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
    return f"/api/rounds/{number}"


def rehearse(office, path):
    office.call("POST", f"{path}/rehearsal")
    until(lambda: office.call("GET", f"{path}/rehearsal")["rehearsal"]["stage"] != "running", "the rehearsal")
    until(lambda: office.call("GET", f"{path}/rehearsal")["kept"], "the rehearsal")
    return office.call("GET", f"{path}/rehearsal")


def test_a_rehearsal_sends_nothing_and_is_known_to_the_confirmation(office, ready):
    asked = office.call("GET", f"{ready}/rehearsal")
    assert (asked["rehearsal"], asked["kept"], asked["ready"], asked["faster"]) == (None, None, 1, 100)
    assert office.call("GET", f"{ready}/confirmation")["rehearsed"] is None
    before = office.call("GET", ready)
    found = rehearse(office, ready)
    assert (found["rehearsal"]["stage"], found["rehearsal"]["strokes"], found["changed"]) == ("finished", "s", False)
    office.run()
    assert (office.carrier.arrived, office.carrier.references) == ([], [])
    assert office.call("GET", ready) == before
    said = office.call("GET", f"{ready}/confirmation")["rehearsed"]
    assert said.startswith("Rehearsed on 2026-11-24 at ")
    assert said.endswith(": 1 of 1 text taken. Nothing changed since.")
    # Neither the record of other rounds nor the clerk's history knows of it: the round is sent as any other.
    office.call("POST", f"{ready}/start", json={"seal": office.call("GET", f"{ready}/confirmation")["seal"]})
    office.run()
    assert len(office.carrier.arrived) == 1


@pytest.mark.parametrize(
    ("method", "path", "body", "says"),
    [
        ("PATCH", "/rows/1/cells", {"column": "Due", "typed": "187"}, "Numbers or texts changed since."),
        ("PATCH", "/rows/1/cells", {"column": "Mobile", "typed": "902-555-0129"}, "Numbers or texts changed since."),
        ("PATCH", "", {"pace": {"every": 30, "give_or_take": 1}}, "Only the pace changed since."),
        ("PATCH", "", {"title": "Other dues"}, "Nothing changed since."),
    ],
)
def test_a_rehearsed_round_says_whether_it_changed(office, ready, method, path, body, says):
    rehearse(office, ready)
    office.call(method, f"{ready}{path}", json=body)
    found = office.call("GET", f"{ready}/rehearsal")
    assert found["kept"].endswith(says)
    assert found["changed"] == (says != "Nothing changed since.")
    assert office.call("GET", f"{ready}/confirmation")["rehearsed"] == found["kept"]


def test_nothing_ready_and_nothing_started_is_rehearsed(office):
    number = office.bring("Name,Mobile\nIna,12\n")
    assert "No row is ready" in office.call("POST", f"/api/rounds/{number}/rehearsal", 409)["detail"]
    office.call("POST", f"/api/rounds/{office.started()}/rehearsal", 409)
