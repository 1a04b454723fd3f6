"""What is logged: when, how bad, which part; and no number or word of anybody, whatever fails."""

import io
import json
import logging
from datetime import datetime

import pytest

from gentle_ledger.cli.logs import JsonLines, Lines
from tests.web.office import Office

PLANTED = ("902-555-0142", "+19025550142", "9025550142", "Zebedee Planted", "C77", "1234.56", "Hello Zebedee")
SHEET = "First name,Mobile,Berth,Due\nZebedee Planted,902-555-0142,C77,1234.56\n"
TRIGGER = "CREATE TRIGGER planted BEFORE {} BEGIN SELECT RAISE(ABORT, 'for a reason nobody knows'); END"
FAILING = [
    "INSERT ON sheet_rows",
    "INSERT ON messages",
    "INSERT ON attempts",
    "UPDATE OF mark ON messages",
    "INSERT ON ledger",
]


@pytest.fixture(params=[Lines, JsonLines])
def logged(request):
    written = io.StringIO()
    handler = logging.StreamHandler(written)
    handler.setFormatter(request.param())
    root = logging.getLogger()
    level = root.level
    root.addHandler(handler)
    root.setLevel(logging.DEBUG)
    yield written
    root.removeHandler(handler)
    root.setLevel(level)


@pytest.mark.parametrize("failing", FAILING)
def test_no_number_or_word_of_anybody_is_logged_when_a_write_fails(tmp_path, logged, failing):
    office = Office(tmp_path)
    with office.app.state.context.database.writing() as session:
        session.connection().exec_driver_sql(TRIGGER.format(failing))
    number = office.client.post("/api/rounds", files={"file": ("a.csv", SHEET)})
    if number.status_code == 201:
        path = f"/api/rounds/{number.json()['id']}"
        office.client.put(f"{path}/wording", json={"wording": "Hello {First name}, {Berth}: {Due}", "row": 1})
        office.client.patch(path, json={"checks": {"unusual": "off"}})
        seal = office.client.get(f"{path}/confirmation").json()["seal"]
        office.client.post(f"{path}/start", json={"seal": seal})
    office.loop._keeps_on = lambda _sends, _idle: office.clock.passed < 30
    office.loop.run()
    said = logged.getvalue()
    assert "for a reason nobody knows" in said, "what happened is told"
    assert [planted for planted in PLANTED if planted in said] == []


def test_an_error_of_which_nobody_thought_is_told_by_its_place(logged):
    def reads(cell):
        raise ValueError(f"cannot read {cell}")

    try:
        reads("Zebedee Planted")
    except ValueError as fault:
        logging.getLogger("gentle_ledger.x").error("A request failed.", exc_info=fault)
    said = logged.getvalue()
    assert "builtins.ValueError" in said
    assert "in reads" in said
    assert "Planted" not in said


def test_time_level_and_part():
    record = logging.LogRecord("gentle_ledger.x", logging.WARNING, "", 0, "said %s", ("so",), None)
    told = json.loads(JsonLines().format(record))
    assert (told["level"], told["component"], told["message"]) == ("WARNING", "gentle_ledger.x", "said so")
    assert datetime.fromisoformat(told["at"]).utcoffset().total_seconds() == 0
    assert Lines().format(record) == f"{told['at']} WARNING gentle_ledger.x: said so"
