"""The seal: what starts is all that the confirmation said, and what differs is said."""

import json

import pytest

from gentle_ledger.sending.verdicts import OTHER_LINE
from gentle_ledger.store.lines import line_in_use, line_record
from gentle_ledger.store.models import LineRecord, Message, Round
from tests.web.office import Office

SHEET = """Name,Mobile,When
Ida,902-555-0110,2026-12-01 10:00
Bo,902-555-0111,2026-12-01 11:00
Cy,902-555-0112,2026-12-01 09:00
"""
PACE = {
    "every": 10,
    "give_or_take": 2,
    "hours": {"from": "09:00", "to": "17:00", "where": "office"},
    "per_day": [1],
    "start": "2027-01-04T09:00:00",
}


@pytest.fixture
def office(tmp_path):
    return Office(tmp_path)


@pytest.fixture
def path(office):
    number = office.bring(SHEET)
    path = f"/api/rounds/{number}"
    office.call("PUT", f"{path}/wording", json={"wording": "Hello {Name}", "row": 1})
    office.call("PATCH", path, json={"pace": PACE})
    return path


def pace(**other):
    return lambda office, path: office.call("PATCH", path, json={"pace": {**PACE, **other}})


def price(office, _path):
    with office.app.state.context.database.writing() as session:
        line = line_in_use(session)
        line.settings = json.dumps({**json.loads(line.settings), "price_per_part": "0.05"})


def line(office, _path):
    with office.app.state.context.database.writing() as session:
        record = session.get_one(LineRecord, 1)
        record.used_at = office.clock.now().replace(year=2030)


def cell(row, column, typed):
    return lambda office, path: office.call(
        "PATCH", f"{path}/rows/{row}/cells", json={"column": column, "typed": typed}
    )


CHANGES = [
    # what another window does after the confirmation, what is said of it; "" for what the confirmation does not say
    (pace(every=5), "the gap or the rests"),
    (pace(after=5, rest=60), "the gap or the rests"),
    (pace(hours=None), "the hours"),
    (pace(hours={**PACE["hours"], "holidays": "CA-NS"}), "the hours"),
    (pace(per_day=[2]), "the cap"),
    (pace(start=None), "the beginning"),
    (pace(patience=30), "the rest of the pace"),
    (pace(hours=None, per_day=[], start=None), "the hours, the cap and the beginning"),
    (pace(at="When", order="-Name"), "the order or the moments of the rows and the rest of the pace"),
    (price, "the price"),
    (line, "the line and the price"),
    (cell(2, "Mobile", "902-555-0119"), "the rows, numbers or texts"),
    (cell(1, "Name", "Ada"), "the rows, numbers or texts"),
    (cell(2, "When", "2026-12-01 12:00"), ""),
    (lambda office, path: office.call("PATCH", path, json={"title": "Another name"}), ""),
    (
        lambda office, path: office.call("PATCH", f"{path}/rows/3", json={"left_out": True}),
        "the rows, numbers or texts",
    ),
]


@pytest.mark.parametrize(("change", "said"), CHANGES, ids=[said or "nothing" for _, said in CHANGES])
def test_what_changed_since_the_confirmation_is_said_and_nothing_goes(office, path, change, said):
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    change(office, path)
    answer = office.call("POST", f"{path}/start", 409 if said else 200, json={"seal": seal})
    if said:
        assert f"Since it was confirmed, {said} changed, so nothing was sent." in answer["detail"]
        assert office.call("GET", path)["stage"] == "preparing"
        # It is confirmed again, as it is now.
        seal = office.call("GET", f"{path}/confirmation")["seal"]
        office.call("POST", f"{path}/start", json={"seal": seal})
    assert office.call("GET", path)["stage"] == "sending"


def test_undo_and_a_newer_sheet_are_changes_too(office, path):
    office.call("PATCH", path, json={"pace": {**PACE, "per_day": [5]}})
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    office.call("POST", f"{path}/undo")
    assert "the cap changed" in office.call("POST", f"{path}/start", 409, json={"seal": seal})["detail"]
    office.call("POST", f"{path}/redo")
    office.call("POST", f"{path}/start", json={"seal": seal})
    # What was changed before stands: an undo that comes too late takes nothing back.
    assert "nothing to undo" in office.call("POST", f"{path}/undo", 409)["detail"]


def test_a_moment_is_in_the_seal_where_rows_go_by_their_own(office, path):
    office.call("PATCH", path, json={"pace": {"every": 10, "at": "When", "late": 60}})
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    cell(2, "When", "2026-12-01 12:00")(office, path)
    answer = office.call("POST", f"{path}/start", 409, json={"seal": seal})
    assert "the order or the moments of the rows changed" in answer["detail"]


@pytest.mark.parametrize("which", ["ready", "stopped"])
def test_what_is_sent_later_is_sealed_as_well(office, path, which):
    office.call("PATCH", path, json={"pace": {"every": 10}})
    rows = [1] if which == "ready" else None
    seal = office.call("POST", f"{path}/confirmation", json={"rows": rows})["seal"]
    office.call("POST", f"{path}/start", json={"seal": seal, "rows": rows})
    office.sender.act()
    if which == "ready":
        office.run()
        seal = office.call("POST", f"{path}/confirmation", json={"rows": None})["seal"]
    else:
        office.call("POST", f"{path}/stop")
        seal = office.call("GET", f"{path}/tally")["seal_of_stopped"]
    office.call("PATCH", path, json={"pace": {"every": 3}})
    body = {"which": which, "texts": 2, "seal": seal}
    answer = office.call("POST", f"{path}/again", 409, json=body)
    assert "the gap or the rests changed" in answer["detail"]
    assert len(office.carrier.arrived) == 1
    office.again(path, which=which, texts=2)
    office.run()
    assert len(office.carrier.arrived) == 3


def test_a_round_goes_by_the_line_it_was_confirmed_for_or_waits_and_says_so(office, path):
    office.call("PATCH", path, json={"pace": {"every": 10}})
    office.call("POST", f"{path}/start", json={"seal": office.call("GET", f"{path}/confirmation")["seal"]})
    office.sender.act()
    office.sender.give_back()
    first = office.carrier.identity
    # Somebody starts the program with another carrier.
    office.carrier.identity = "Quay Office at another carrier"
    office.sender.begin()
    office.run(3_000)
    assert len(office.carrier.arrived) == 1, "it does not go by the other one without a word"
    tally = office.call("GET", f"{path}/tally")
    assert tally["line"] == {"confirmed": first, "now": office.carrier.identity, "texts": 2, "cost": None}
    right = {"identity": office.carrier.identity, "texts": 2}
    for wrong in ({"identity": first}, {"texts": 3}):
        office.call("POST", f"{path}/line", 409, json=right | wrong)
    assert office.call("POST", f"{path}/line", json=right)["line"] is None
    office.run(3_000)
    assert len(office.carrier.arrived) == 3


def test_a_text_in_hand_by_another_line_is_left_to_its_sender_while_that_runs(office, path, monkeypatch):
    office.call("PATCH", path, json={"pace": {"every": 10}})
    office.call("POST", f"{path}/start", json={"seal": office.call("GET", f"{path}/confirmation")["seal"]})
    database = office.app.state.context.database
    office.sender.begin()
    with database.writing() as session:
        found = session.get_one(Round, int(path.rpartition("/")[2]))
        other = line_record(session, FACTS)
        found.line_id = other.id
        session.connection().exec_driver_sql("UPDATE messages SET mark = 'Going', uncertain = 1 WHERE row = 1")
        session.connection().exec_driver_sql(
            f"INSERT INTO senders VALUES ({other.id}, 7, '{office.sender.process}', '')"
        )
    office.run(100)
    assert office.call("GET", f"{path}/rows")["rows"][0]["mark"] == "Going"
    with database.writing() as session:
        session.connection().exec_driver_sql(f"UPDATE senders SET process = '' WHERE line_id = {other.id}")
    office.run(100)
    with database.reading() as session:
        text = session.get_one(Message, 1)
        assert (text.mark, text.reason) == ("Unsure", OTHER_LINE().sentence)


FACTS = type("Facts", (), {"kind": "k", "name": "n", "identity": "other", "settings": {}, "abilities": {}})()
