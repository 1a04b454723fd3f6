"""Computed columns through the interface: tried, put in, renamed, taken out, and carried into files."""

import csv
import io
import json

import pytest
from sqlalchemy import insert, select
from sqlalchemy.exc import IntegrityError

from gentle_ledger.cli import main
from gentle_ledger.store.models import LedgerEntry, Message
from tests.sending.world import Refused
from tests.web.office import Office

RAW = """\
First name,Mobile,Berth,Class,Length (m),Metered (kWh),Paid
Ines,902-555-0128,C14,A,12.10,118,
Bo,902-555-0111,C15,B,oops,0,10
Cal,902-555-0112,C16,B,7,0,100
"""
DUE = 'ROUND({Length (m)} * FROMTABLE("Tariff"; {Class}) + {Metered (kWh)} * 0.31 - {Paid}; 2)'


def prepared(office: Office) -> str:
    path = f"/api/rounds/{office.bring(RAW, 'raw.csv')}"
    office.call("PATCH", path, json={"lookups": {"Tariff": {"A": "14.00", "B": "12.50"}}})
    return path


def column(desk: dict, name: str) -> dict:
    return next(c for c in desk["columns"] if c["name"] == name)


def test_a_formula_is_tried_without_being_kept(office):
    path = prepared(office)
    tried = office.call("POST", f"{path}/columns/try", json={"formula": DUE, "format": "money", "row": 1})
    assert tried["explained"] == "12.10 m × $14.00 + 118 kWh × $0.31 − $0.00 = $205.98"
    assert office.call("POST", f"{path}/columns/try", json={"formula": DUE, "row": 2})["trouble"] == (
        "Length (m) is 'oops', not a number"
    )
    found = office.call("POST", f"{path}/columns/try-all", json={"formula": DUE, "row": 1})
    assert (found["wrong"], found["first"]) == (
        1,
        {"row": 2, "label": "Bo", "why": "Length (m) is 'oops', not a number"},
    )
    problem = office.call("POST", f"{path}/columns/try", json={"formula": "😀 + {Lenght}", "row": 1})["problem"]
    assert (problem["start"], problem["end"]) == (0, 2), "places count UTF-16 units"
    assert len(office.call("GET", path)["columns"]) == 7


def test_a_computed_column_is_put_in_renamed_and_taken_out(office):
    path = prepared(office)
    put = f"{path}/columns/computed"
    office.call("PUT", put, json={"name": "Due", "formula": DUE, "format": "money"})
    office.call("PUT", put, json={"name": "Link", "template": "https://pay.saltmarsh.example/{Berth}{?Due}"})
    office.call("PATCH", path, json={"leave_out": [{"when": "{Due} <= 0", "reason": "nothing to pay"}]})
    answer = office.call("PUT", f"{path}/wording", json={"wording": "{First name}: {Due} {Link}", "row": 1})
    run = answer["slip"]["parts"][0][-1]
    assert run["opens"] == run["text"] == "https://pay.saltmarsh.example/C14?Due=205.98"
    rows = office.call("GET", f"{path}/rows")["rows"]
    assert [row["mark"] for row in rows] == ["Ready", "Held", "Left out"]
    assert rows[0]["cells"][7]["explained"].endswith("= $205.98")
    assert rows[1]["cells"][7]["trouble"] == "Length (m) is 'oops', not a number"

    desk = office.call("PUT", put, json={"name": "To pay", "was": "Due", "formula": DUE, "format": "money"})
    assert desk["wording"] == "{First name}: {To pay} {Link}"
    assert column(desk, "Link")["template"] == "https://pay.saltmarsh.example/{Berth}{?To pay}"
    assert desk["leave_out"][0]["when"] == "{To pay} <= 0"
    assert "There is a column" in office.call("PUT", put, 422, json={"name": "berth", "formula": "1"})["detail"]
    assert "closed" in office.call("PUT", put, 422, json={"name": "X", "formula": "(1"})["detail"]
    desk = office.call("DELETE", put, params={"name": "To pay"})
    assert "To pay" in desk["wordings"][-1]["problems"][0]["message"]


def test_the_program_and_the_command_compute_the_same(office, tmp_path):
    path = prepared(office)
    office.call("PUT", f"{path}/columns/computed", json={"name": "Due", "formula": DUE, "format": "money"})
    office.call("PUT", f"{path}/wording", json={"wording": "{First name}: {Due}", "row": 1})
    (tmp_path / "recipe.toml").write_bytes(office.client.get(f"{path}/recipe.toml").content)
    (tmp_path / "raw.csv").write_text(RAW)
    out = tmp_path / "out.jsonl"
    command = ["compute", str(tmp_path / "raw.csv"), "--recipe", str(tmp_path / "recipe.toml"), "--json"]
    assert main([*command, "--out", str(out)]) == 0
    by_command = [json.loads(line) for line in out.read_text().splitlines()]
    marked = office.client.get(f"{path}/marked-sheet.csv").text
    by_program = list(csv.DictReader(io.StringIO(marked.lstrip("\ufeff"))))
    assert [row["text"] for row in by_command] == [row["Text"] for row in by_program]
    assert [row["Due"] for row in by_program] == ["205.98", "#VALUE!", "-12.50"]
    assert [row["Due"] for row in by_command] == [205.98, "#VALUE!", -12.5]


def test_help_and_starting_points_come_from_the_registries(office):
    path = prepared(office)
    names = [f["name"] for f in office.call("GET", "/api/catalogue")["functions"]]
    assert {"PMT", "FROMTABLE", "NETWORKDAYS"} <= set(names)
    points = {p["key"]: p["formula"] for p in office.call("GET", f"{path}/columns/starting-points")}
    assert points["tariff"] == 'ROUND({Length (m)} * FROMTABLE("Tariff"; {Class}); 2)'
    assert points["balance"] == "{Charges} - {Paid}"


TOGETHER = """\
First name,Mobile,Berth,Due
Ines,902-555-0128,C14,100
Bo,902-555-0111,C15,50
Ines,902 555 0128,D02,30.50
"""


def test_combined_rows_are_one_text_and_their_marks_reach_all_rows(office):
    number = office.bring(TOGETHER, "together.csv")
    path = f"/api/rounds/{number}"
    combine = {"by": "Mobile", "columns": {"Due": "sum", "Berth": "listed"}}
    desk = office.call("PATCH", path, json={"combine": combine})
    assert (desk["combine"]["texts"], desk["combine"]["rows"]) == (1, 2)
    office.call("PUT", f"{path}/wording", json={"wording": "{First name}: {Berth}, {Due}", "row": 1})
    assert office.call("GET", f"{path}/rows/3/slip")["together"] == [1, 3]
    sums = office.call("GET", f"{path}/confirmation")
    assert (sums["texts"], sums["numbers"]) == (2, 2)
    office.call("POST", f"{path}/start", json={"seal": sums["seal"]})
    assert "2 texts still to go" in office.call("GET", f"{path}/tally")["sentence"]
    office.run()
    assert sorted(text for _, text in office.carrier.arrived) == ["Bo: C15, $50.00", "Ines: C14 and D02, $130.50"]
    tally = office.call("GET", f"{path}/tally")
    assert (tally["sentence"], tally["counts"]) == ("All 2 texts sent.", [{"mark": "Sent", "rows": 3}])
    rows = office.call("GET", f"{path}/rows")["rows"]
    assert [row["mark"] for row in rows] == ["Sent"] * 3
    first, third = (office.call("GET", f"{path}/rows/{n}/standing")["history"] for n in (1, 3))
    assert first == third
    assert [entry["mark"] for entry in first] == ["Going", "Sent"]


def test_a_failed_text_of_several_rows_is_tried_again_once_for_all(office):
    number = office.bring(TOGETHER, "together.csv")
    path = f"/api/rounds/{number}"
    office.call("PATCH", path, json={"combine": {"by": "Mobile", "columns": {"Due": "sum", "Berth": "listed"}}})
    office.call("PUT", f"{path}/wording", json={"wording": "{First name}: {Berth}, {Due}", "row": 1})
    office.carrier.answers["+19025550128"] = [Refused("the carrier was busy", True)]
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    office.call("POST", f"{path}/start", json={"seal": seal})
    office.run()
    tally = office.call("GET", f"{path}/tally")
    assert tally["sentence"] == "1 of 2 texts sent, 1 failed."
    assert (tally["may_try_again"], tally["failures"][0]["texts"]) == (1, 1)
    assert [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]] == ["Failed", "Sent", "Failed"]
    office.again(path, which="failed", texts=1)
    office.run()
    assert [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]] == ["Sent"] * 3
    assert len(office.carrier.arrived) == 2
    with office.app.state.context.database.writing() as session:
        third = session.scalars(select(Message).where(Message.round_id == number, Message.row == 3)).one()
        assert third.with_row == 1
        entry = insert(LedgerEntry).values(at=third.marked_at, message_id=third.id, mark="Going", reason="")
        with pytest.raises(IntegrityError, match="goes with another one"):
            session.execute(entry)
        session.rollback()


PREPARING_ONLY = [
    ("PUT", "wording", {"wording": "x", "row": 1}),
    ("PATCH", "columns", {"name": "Due", "role": "text"}),
    ("PUT", "columns/computed", {"name": "Half", "formula": "{Due} / 2"}),
    ("DELETE", "columns/computed?name=Half", None),
    ("POST", "columns/match", {"name": "Due", "column": "Berth"}),
    ("POST", "columns/try", {"formula": "1", "row": 1}),
    ("POST", "columns/try-all", {"formula": "1", "row": 1}),
    ("POST", "columns/try-condition", {"when": "TRUE()"}),
    ("POST", "rows", None),
    ("POST", "cells", {"act": "empty", "rows": [1], "columns": ["Due"]}),
    ("POST", "cells/paste", {"text": "1", "rows": [1], "columns": ["Due"]}),
    ("POST", "cells/paste/glance", {"text": "1", "rows": [1], "columns": ["Due"]}),
    ("POST", "undo", None),
    ("POST", "redo", None),
    ("GET", "numbers", None),
    ("POST", "numbers", {"batch": "same", "action": "leave out"}),
]


def test_nothing_that_counts_changes_once_sending_has_started(office):
    number = office.bring(TOGETHER, "together.csv")
    path = f"/api/rounds/{number}"
    office.call("PUT", f"{path}/wording", json={"wording": "{First name}: {Due}", "row": 1})
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    office.call("POST", f"{path}/start", json={"seal": seal})
    before = office.client.get(f"{path}/marked-sheet.csv").text
    for method, place, body in PREPARING_ONLY:
        answer = office.client.request(method, f"{path}/{place}", **({"json": body} if body else {}))
        assert (answer.status_code, "locked" in answer.json()["detail"]) == (409, True), place
    for changes in ({"lookups": {}}, {"leave_out": []}, {"combine": None}, {"plain_signs": False}, {"as_of": None}):
        assert office.call("PATCH", path, 409, json=changes)
    files = {"file": ("newer.csv", TOGETHER)}
    office.call("POST", f"{path}/newer/glance", 409, files=files)
    office.call("POST", f"{path}/newer", 409, files=files, data={"key": "Berth", "version": 1})
    assert office.client.get(f"{path}/marked-sheet.csv").text == before


@pytest.mark.parametrize(
    ("when", "rows", "first", "unsure", "reason"),
    [
        ("{Due} > 40", 2, {"row": 1, "label": "Ines"}, 0, "Due is more than 40"),
        ("{Due} > 1000", 0, None, 0, "Due is more than 1000"),
        ("1 / ({Due} - 50) > 0", 1, {"row": 1, "label": "Ines"}, 1, ""),
        ("{Owed} > 1", 0, None, 0, "Owed is more than 1"),
    ],
)
def test_a_condition_says_its_rows_while_it_is_written(office, when, rows, first, unsure, reason):
    """Ines has 100 and 30.50, Bo has 50."""
    path = f"/api/rounds/{office.bring(TOGETHER, 'together.csv')}"
    found = office.call("POST", f"{path}/columns/try-condition", json={"when": when})
    assert (found["rows"], found["first"], found["unsure"], found["reason"]) == (rows, first, unsure, reason)
    assert bool(found["problem"]) == ("Owed" in when)
    assert bool(found["why"]) == bool(unsure)


def test_settings_that_cannot_be_used_are_sentences(office):
    path = prepared(office)
    put = f"{path}/columns/computed"
    cases = [
        ("PATCH", f"{path}/columns", {"name": "Paid", "format": "cash"}, "is not a format"),
        ("PATCH", f"{path}/columns", {"name": "Debt", "role": "text"}, 'no column "Debt"'),
        ("PUT", put, {"name": " ", "formula": "1"}, "has no name"),
        ("PUT", put, {"name": "a{b", "formula": "1"}, "Curly brackets"),
        ("PUT", put, {"name": "X", "formula": "{X} + 1"}, "computed from itself"),
        ("PUT", put, {"name": "X", "formula": "1", "template": "x"}, "not both"),
        ("PUT", put, {"name": "X", "template": "https://a.example/{Debt}"}, 'No column is called "Debt"'),
        ("DELETE", f"{put}?name=Paid", None, "no computed column"),
        ("POST", f"{path}/columns/match", {"name": "a", "column": "Debt"}, 'no column "Debt"'),
        ("PATCH", path, {"combine": {"by": "Mobile", "columns": {"Paid": "mean"}}}, "combine.columns.Paid"),
        ("PATCH", f"{path}/rows/1/cells", {"column": "Debt", "typed": "1"}, 'no column "Debt"'),
    ]
    for method, place, body, says in cases:
        answer = office.client.request(method, place, **({"json": body} if body else {}))
        assert answer.status_code == 422, (place, answer.text)
        assert says in answer.json()["detail"]
    assert len(office.call("GET", path)["columns"]) == 7
    desk = office.call("PATCH", path, json={"combine": {"by": "Debt", "columns": {}}})
    assert "which is not there" in desk["combine"]["problem"]
    assert desk["unmatched"] == [{"name": "Debt", "uses": ["combining"], "goes": True}]
    assert {row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]} == {"Held"}
    desk = office.call("POST", f"{path}/columns/forget", json={"name": "Debt"})
    assert (desk["unmatched"], desk["combine"]) == ([], None)
    office.call("POST", f"{path}/columns/forget", 422, json={"name": "Debt"})


def test_roles_formats_and_readings_of_a_column(office):
    number = office.bring("Name,Mobile,When,Due\nInes,902-555-0101,05/11/2026,1234.5\nBo,902-555-0102,06/11/2026,2\n")
    path = f"/api/rounds/{number}"
    desk = office.call("PUT", f"{path}/wording", json={"wording": "{When} {Due}", "row": 1})
    assert desk["slip"]["whole"] is False
    asked = office.call("GET", path)
    found = column(asked, "When")
    assert found["question"]["ask"] == "“05/11/2026” in row 1: which comes first in this column?"
    assert (found["awaited"], asked["findings"][0]["check"], asked["findings"][0]["rows"]) == (True, "question", 2)
    office.call("PATCH", f"{path}/columns", json={"name": "When", "reading": "day first", "format": "date d MMMM"})
    desk = office.call("PATCH", f"{path}/columns", json={"name": "due", "format": "money EUR"})
    assert (column(desk, "When")["question"], column(desk, "Due")["format"]) == (None, "money EUR")
    slip = office.call("GET", f"{path}/rows/1/slip")
    assert "".join(run["text"] for part in slip["parts"] for run in part) == "5 November €1,234.50"
    desk = office.call("PATCH", f"{path}/columns", json={"name": "When", "reading": None, "format": None})
    assert column(desk, "When")["question"]
    assert office.call("GET", f"{path}/progress")["percent"] in range(101)


@pytest.mark.parametrize(("zone", "day"), [("America/Halifax", "Nov 30"), ("UTC", "Dec 1"), ("Asia/Tokyo", "Dec 1")])
def test_a_moment_of_another_zone_is_written_by_the_clocks_of_the_office(tmp_path, monkeypatch, zone, day):
    monkeypatch.setenv("GENTLE_LEDGER_ZONE", zone)
    office = Office(tmp_path)
    number = office.bring("Name,Mobile,Pay by,Also\nIna,902-555-0128,2026-12-01T03:59:59Z,2026-12-01T03:59:59+00:00\n")
    path = f"/api/rounds/{number}"
    computed = {"name": "Day", "formula": "DATEVALUE({Also})", "format": "date"}
    office.call("PATCH", f"{path}/columns", json={"name": "Pay by", "format": "date"})
    office.call("PATCH", f"{path}/columns", json={"name": "Also", "role": "text"})
    office.call("PUT", f"{path}/columns/computed", json=computed)
    answer = office.call("PUT", f"{path}/wording", json={"wording": "{Name}: {Pay by}, {Day}.", "row": 1})
    assert "".join(run["text"] for part in answer["slip"]["parts"] for run in part) == f"Ina: {day}, 2026, {day}, 2026."
    lines = office.call("GET", f"{path}/look/texts")["lines"]
    assert [line["text"] for line in lines] == [f"Ina: {day}, 2026, {day}, 2026."], "as the counting process reads it"
    office.app.state.context.database.close()
