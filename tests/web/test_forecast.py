"""The forecast as the page shows it, scheduling a round, and taking it back."""

from datetime import timedelta

import pytest

from gentle_ledger.store.freezing import anything_of
from tests.sending.world import Unavailable
from tests.web.office import Office

ROWS = "Name,Mobile,Remind on,Due\n" + "".join(
    f"P{n},902-555-01{n:02},2026-11-2{5 + n % 2},{10 * n + 5}\n" for n in range(6)
)
HOURS = {"from": "09:00", "to": "17:00", "where": "office"}
# The office's clock begins at 12:00 UTC on Tuesday 2026-11-24; its zone is that of the test machine's setting.


@pytest.fixture
def office(tmp_path, monkeypatch):
    monkeypatch.setenv("GENTLE_LEDGER_ZONE", "America/Halifax")
    return Office(tmp_path)


def prepared(office, pace, text=ROWS):
    number = office.bring(text)
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hello {Name}", "row": 1})
    office.call("PATCH", f"/api/rounds/{number}", json={"pace": {"every": 60, "give_or_take": 0} | pace})
    return number


def start(office, number):
    seal = office.call("GET", f"/api/rounds/{number}/confirmation")["seal"]
    return office.call("POST", f"/api/rounds/{number}/start", json={"seal": seal})


def ahead(office, number):
    return office.call("GET", f"/api/rounds/{number}/forecast")


def test_a_forecast_says_when_the_first_and_the_last_leave_day_by_day_and_what_holds_them_up(office):
    number = prepared(office, {"per_day": [2, 3], "hours": HOURS})
    found = ahead(office, number)
    # It is 8:00 in Halifax.
    assert (found["begins"], found["last"], found["office"]) == ("9:00", "Thursday 9:00", "Halifax")
    assert found["held_up_by"] == "the cap of 2 on the first day and 3 on later ones"
    assert [(day["said"], day["planned"], day["note"]) for day in found["days"]] == [
        ("Tue 24 Nov", 2, "first day of this number"),
        ("Wed 25 Nov", 3, ""),
        ("Thu 26 Nov", 1, ""),
    ]
    assert found["days"][0]["strokes_planned"] == [540, 541]
    assert (found["texts_a_stroke"], found["from_hour"], found["to_hour"]) == (1, 8, 18)
    row = office.call("GET", f"/api/rounds/{number}/forecast/rows/3")
    assert (row["when"], row["why"]) == ("tomorrow 9:00", "the cap of 2 on the first day and 3 on later ones")
    rows = office.call("GET", f"/api/rounds/{number}/rows?planned=true")["rows"]
    assert [row["planned"] for row in rows] == ["9:00", "9:01", "Wed 9:00", "Wed 9:01", "Wed 9:02", "Thu 9:00"]
    assert all(row["planned"] == "" for row in office.call("GET", f"/api/rounds/{number}/rows")["rows"])


def test_the_order_and_the_moments_are_frozen_and_cannot_be_changed_while_it_sends(office):
    number = prepared(office, {"at": "Remind on", "order": "-Due", "hours": HOURS})
    start(office, number)
    rows = {
        row["number"]: row["planned"] for row in office.call("GET", f"/api/rounds/{number}/rows?planned=true")["rows"]
    }
    assert rows == {1: "Wed 9:02", 2: "Thu 9:02", 3: "Wed 9:01", 4: "Thu 9:01", 5: "Wed 9:00", 6: "Thu 9:00"}
    desk = f"/api/rounds/{number}"
    pace = office.call("GET", desk)["pace"]
    refused = office.call("PATCH", desk, 409, json={"pace": pace | {"order": "Due"}})
    assert "stand since sending began" in refused["detail"]
    office.call("PATCH", desk, 409, json={"pace": pace | {"at": None}})
    office.call("PATCH", desk, json={"pace": pace | {"every": 30, "hours": HOURS | {"from": "10:00"}}})
    assert ahead(office, number)["begins"] == "tomorrow 10:00"


def test_what_cannot_be_kept_is_said_before_sending(office):
    number = prepared(office, {"at": "Remind on", "late": 120}, ROWS.replace("2026-11-25", "2026-11-20 09:00"))
    doubts = ahead(office, number)["doubts"]
    assert doubts[0].startswith("3 rows: the moment in Remind on is over already")
    assert doubts[1] == "3 texts will be left out: more than 120 min after their moments."
    assert "no hours are set: those texts leave from midnight on" in doubts[2]
    confirmation = office.call("GET", f"/api/rounds/{number}/confirmation")
    assert confirmation["ahead"]["doubts"] == doubts
    number = prepared(
        office, {"per_day": [1]}, "Name,Mobile\n" + "".join(f"Q{n},506-555-01{n:02}\n" for n in range(35))
    )
    assert ahead(office, number)["doubts"] == [
        "34 texts leave before 8:00 or after 21:00 where the recipient is. Hours keep a round from that.",
        "The round lasts 5 weeks: the cap of 1 a day holds it up most.",
    ]
    assert ahead(office, prepared(office, {}, "Name,Mobile\nR,709-555-0101\n"))["doubts"] == []


@pytest.mark.parametrize(
    ("area", "pace", "night"),
    [
        # Three texts, one a minute. 47 CFR 64.1200(c)(1): not before 8 a.m. or after 9 p.m. (local time at the called
        # party's location).
        ("902", {"start": "2026-11-25T20:58:00"}, 1),
        ("902", {"start": "2026-11-25T20:57:00"}, 0),
        ("902", {"start": "2026-11-25T07:59:00"}, 1),
        ("902", {"start": "2026-11-25T08:00:00"}, 0),
        # 709 is St. John's, half an hour ahead of Halifax, and Labrador, which is not: by day in both.
        ("709", {"start": "2026-11-25T20:29:00"}, 2),
        ("709", {"start": "2026-11-25T07:30:00"}, 3),
        ("709", {"start": "2026-11-25T08:00:00"}, 0),
        ("709", {"start": "2026-11-25T20:29:00", "hours": HOURS | {"from": "06:00", "to": "22:00"}}, 2),
        # Whoever sets hours where the recipient is means them.
        ("709", {"start": "2026-11-25T20:29:00", "hours": HOURS | {"to": "22:00", "where": "recipient"}}, 0),
    ],
)
def test_texts_at_night_are_said_before_sending(office, area, pace, night):
    number = prepared(office, pace, "Name,Mobile\n" + "".join(f"N{n},{area}-555-01{n:02}\n" for n in range(3)))
    said = f"{night} text{'s leave' if night > 1 else ' leaves'} before 8:00 or after 21:00 where the recipient is."
    assert ahead(office, number)["doubts"] == ([f"{said} Hours keep a round from that."] if night else [])


def test_a_scheduled_round_waits_says_so_and_can_be_taken_back_until_something_went(office):
    number = prepared(office, {"start": "2026-11-25T10:00:00"})
    assert ahead(office, number)["scheduled"]
    tally = start(office, number)
    assert (tally["stage"], tally["scheduled"], tally["may_take_back"]) == ("sending", "tomorrow 10:00", True)
    listed = office.call("GET", "/api/rounds")[0]
    assert (listed["says"], listed["strokes"]) == ("scheduled for tomorrow 10:00", "tttttt")
    office.call("PUT", f"/api/rounds/{number}/wording", 409, json={"wording": "Other", "row": 1})
    office.sender.act()
    assert office.carrier.arrived == []
    desk = office.call("POST", f"/api/rounds/{number}/take-back")
    assert (desk["stage"], desk["counts"][0]) == ("preparing", {"mark": "Ready", "rows": 6})
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Good day {Name}", "row": 1})
    office.call("PATCH", f"/api/rounds/{number}", json={"pace": {"every": 60}})
    assert start(office, number)["scheduled"] is None
    office.sender.act()
    assert office.carrier.arrived == [("+19025550100", "Good day P0")]
    refused = office.call("POST", f"/api/rounds/{number}/take-back", 409)
    assert "went already" in refused["detail"]
    assert office.call("GET", f"/api/rounds/{number}/tally")["may_take_back"] is False


def test_a_text_that_may_have_gone_keeps_a_round_from_being_taken_back(office):
    number = prepared(office, {})
    start(office, number)
    office.carrier.answers["+19025550100"] = [Unavailable("trouble", perhaps_taken=True)]
    office.sender.act()
    with office.app.state.context.database.reading() as session:
        assert anything_of(session, number)
    office.call("POST", f"/api/rounds/{number}/take-back", 409)


def test_the_tally_says_when_it_goes_on_and_why_it_waits(office):
    number = prepared(office, {"per_day": [2], "hours": HOURS})
    start(office, number)
    assert office.loop.take_turn()
    tally = office.call("GET", f"/api/rounds/{number}/tally")
    assert (
        tally["waits"]
        == "It is 8:00 in Halifax: goes on 9:00, row 1, not sooner because of the hours from 9:00 to 17:00."
    )
    for passed in (3600, 0, 60, 0, 60):
        office.clock.passed += passed
        office.sender.act()
    tally = office.call("GET", f"/api/rounds/{number}/tally")
    assert tally["waits"].startswith(
        "It is 9:02 in Halifax: goes on tomorrow 9:00, row 3, not sooner because of the cap of 2"
    )
    assert tally["last_leaves"] == "Thursday 9:01"
    listed = office.call("GET", "/api/rounds")[0]
    assert listed["says"] == "waiting until tomorrow 9:00"
    office.clock.passed += timedelta(days=3).total_seconds()


def test_a_line_that_is_slowed_down_is_said(office):
    number = prepared(office, {})
    start(office, number)
    office.carrier.answers["+19025550100"] = [Unavailable("the carrier asks for fewer texts (429)", too_fast=True)]
    office.sender.act()
    said = office.call("GET", f"/api/rounds/{number}/tally")["slowed"]
    assert said.startswith("The carrier asked for fewer texts: one every 2 min for now")
    assert {c["mark"] for c in office.call("GET", f"/api/rounds/{number}/tally")["counts"]} == {"To go"}


def test_holidays_can_be_chosen_by_the_names_of_their_places(office):
    number = prepared(office, {})
    places = office.call("GET", f"/api/rounds/{number}/forecast/holidays")
    assert {"code": "CA-NS", "name": "Nova Scotia"} in places
    assert places[0] == {"code": "CA", "name": "the whole country"}
    bad = {"pace": {"every": 60, "hours": HOURS | {"holidays": "CA-XX"}}}
    assert "no public holidays are known" in office.call("PATCH", f"/api/rounds/{number}", 422, json=bad)["detail"]


def test_chosen_rows_leave_by_a_forecast_of_their_own_and_later_ones_among_those_that_go_already(office):
    number = prepared(office, {"order": "-Due", "start": "2026-11-25T10:00:00"})
    chosen = office.call("POST", f"/api/rounds/{number}/chosen", json={"rows": [1, 2]})
    assert (chosen["texts"], chosen["ahead"]["begins"], chosen["ahead"]["last"]) == (
        2,
        "tomorrow 10:00",
        "tomorrow 10:01",
    )
    seal = office.call("POST", f"/api/rounds/{number}/confirmation", json={"rows": [1, 3, 5]})["seal"]
    office.call("POST", f"/api/rounds/{number}/start", json={"seal": seal, "rows": [1, 3, 5]})
    # By Due, largest first: 5, 3 and 1 go already; 4 leaves between 5 and 3, and 2 between 3 and 1.
    later = office.call("POST", f"/api/rounds/{number}/chosen", json={"rows": [2, 4]})
    assert (later["texts"], later["ahead"]["begins"], later["ahead"]["last"]) == (2, "tomorrow 10:01", "tomorrow 10:03")
    confirmed = office.call("POST", f"/api/rounds/{number}/confirmation", json={"rows": [2, 4]})
    assert confirmed["ahead"] == later["ahead"]
