"""The web layer: its guards, its problem details, and a round's whole life through the interface."""

import csv
import io
import json
import threading
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from gentle_ledger.cli import main
from gentle_ledger.cli.program import assemble
from gentle_ledger.store.database import Database
from gentle_ledger.store.models import Round
from gentle_ledger.web.settings import Settings
from tests.sending.world import Refused, Silent
from tests.servers import free_port
from tests.web.office import OWN, POOL, SHEET, WORDING


def test_policy_headers(office):
    headers = office.client.get("/").headers
    assert "default-src 'none'" in headers["content-security-policy"]
    assert "unsafe-inline" not in headers["content-security-policy"]
    assert office.client.get("/api/rounds").headers["x-content-type-options"] == "nosniff"


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "says"),
    [
        ("GET", "/api/rounds/99", None, 404, "does not exist"),
        ("GET", "/api/rounds/99/tally", None, 404, "does not exist"),
        ("GET", "/api/nothing", None, 404, "nothing at this address"),
        ("GET", "/api/rounds/1/rows/99/slip", None, 404, "no row 99"),
        ("GET", "/api/rounds/1/rows?limit=9999", None, 422, "cannot be used"),
        ("PATCH", "/api/rounds/1", {"currency": "XYZW"}, 422, "ISO 4217"),
        (
            "PATCH",
            "/api/rounds/1",
            {"pace": {"every": 0.01}},
            422,
            "cannot be used: pace.every should be greater than",
        ),
        ("PATCH", "/api/rounds/1", {"colour": 1}, 422, "cannot be used: colour: "),
        ("PATCH", "/api/rounds/1/columns", {"name": "Debt"}, 422, 'no column "Debt"'),
        ("PATCH", "/api/rounds/1/rows/3", {"released": True, "reason": "sure"}, 404, "cannot be released"),
        ("POST", "/api/rounds/1/pause", None, 409, "not sending"),
        ("POST", "/api/rounds/1/start", {"seal": "stale"}, 409, "what was confirmed changed"),
        ("POST", "/api/rounds/1/again", {"which": "failed", "texts": 1, "seal": ""}, 409, "was not started"),
    ],
)
def test_problems_are_sentences(office, method, path, body, status, says):
    number = office.bring()
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hi {Berth}", "row": 1})
    problem = office.call(method, path, status, json=body)
    assert says in problem["detail"]
    assert problem["status"] == status


def test_a_bad_sheet_stores_nothing(office):
    problem = office.call("POST", "/api/rounds", 422, files={"file": ("a.csv", "A,B\n1,2\n1,2,3\n")})
    assert (problem["row"], office.call("GET", "/api/rounds")) == (2, [])


def test_the_desk_follows_every_change(office):
    number = office.bring()
    desk = office.call("GET", f"/api/rounds/{number}")
    assert [c["role"] for c in desk["columns"]] == ["name", "mobile number", "reference", "money"]
    answer = office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
    assert "".join(run["text"] for part in answer["slip"]["parts"] for run in part).startswith("Hello Ines, berth C14")
    counts = lambda: {c["mark"]: c["rows"] for c in office.call("GET", f"/api/rounds/{number}")["counts"]}  # noqa: E731
    assert counts() == {"Ready": 1, "Held": 2, "Left out": 0}
    blank = office.call("GET", f"/api/rounds/{number}/rows?finding=blank")["rows"]
    assert [(row["number"], row["cells"][0]["trouble"]) for row in blank] == [(2, "blank, and the wording uses it")]
    desk = office.call("PATCH", f"/api/rounds/{number}/columns", json={"name": "First name", "fallback": "there"})
    assert desk["estimate"]["texts"] == 2
    office.call("PATCH", f"/api/rounds/{number}/rows/1", json={"left_out": True})
    assert counts() == {"Ready": 1, "Held": 1, "Left out": 1}
    held = office.call("GET", f"/api/rounds/{number}/rows?mark=Held")
    assert held["rows"][0]["cells"][1] == {
        "shown": "902-555-012",
        "typed": None,
        "trouble": "one digit short for Canada",
        "explained": None,
        "original": None,
    }
    assert [(r["number"], r["reason"]) for r in held["rows"]] == [(3, "Mobile: one digit short for Canada")]
    assert office.call("GET", f"/api/rounds/{number}/rows?words=c15")["total"] == 1
    assert office.call("GET", f"/api/rounds/{number}/rows?finding=number")["total"] == 1


def test_the_role_of_the_mobile_number_moves(office):
    number = office.bring("A,B\n902-555-0101,902-555-0102\n")
    desk = office.call("PATCH", f"/api/rounds/{number}/columns", json={"name": "B", "role": "mobile number"})
    assert [c["role"] for c in desk["columns"]] == ["text", "mobile number"]


def test_what_was_seen_is_what_is_sent(office):
    number = office.bring()
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hi {Berth}", "row": 1})
    seal = office.call("GET", f"/api/rounds/{number}/confirmation")["seal"]
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Ho {Berth}", "row": 1})
    assert (
        "the rows, numbers or texts changed"
        in office.call("POST", f"/api/rounds/{number}/start", 409, json={"seal": seal})["detail"]
    )
    number = office.started()
    for method, path, body in (
        ("PUT", "wording", {"wording": "x", "row": 1}),
        ("PATCH", "columns", {"name": "Due", "role": "text"}),
        ("PATCH", "rows/1", {"left_out": True}),
        ("PATCH", "", {"currency": "USD"}),
    ):
        office.call(method, f"/api/rounds/{number}/{path}".rstrip("/"), 409, json=body)
    office.call("DELETE", f"/api/rounds/{number}", 409)
    office.run()
    assert office.carrier.arrived[0] == ("+19025550128", "Hello Ines, berth C14 has $186.40 to pay.")


def test_two_windows_press_send_and_one_text_goes(office):
    number = office.bring()
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hi {Berth}", "row": 1})
    seal = office.call("GET", f"/api/rounds/{number}/confirmation")["seal"]
    codes = []
    press = lambda: codes.append(office.client.post(f"/api/rounds/{number}/start", json={"seal": seal}).status_code)  # noqa: E731
    windows = [threading.Thread(target=press) for _ in range(4)]
    for window in windows:
        window.start()
    for window in windows:
        window.join()
    assert sorted(codes) == [200, 409, 409, 409]
    office.run()
    assert len(office.carrier.arrived) == 2


def test_pause_stop_and_taking_up_again(office):
    number = office.started()
    office.sender.act()
    assert office.call("POST", f"/api/rounds/{number}/pause")["stage"] == "paused"
    office.run()
    assert len(office.carrier.arrived) == 1
    office.call("POST", f"/api/rounds/{number}/go-on")
    tally = office.call("POST", f"/api/rounds/{number}/stop")
    assert (tally["stage"], tally["may_take_up"]) == ("stopped", 1)
    office.again(f"/api/rounds/{number}", 409, which="stopped", texts=2)
    office.again(f"/api/rounds/{number}", which="stopped", texts=1)
    office.run()
    tally = office.call("GET", f"/api/rounds/{number}/tally")
    assert tally["sentence"] == "All 2 texts sent. 1 held, not sent."
    assert tally["strokes"] == "ss"


def test_settling(office):
    office.carrier.answers["+19025550111"] = [Refused("the carrier refused it", may_retry=True)]
    number = office.started()
    office.run()
    tally = office.call("GET", f"/api/rounds/{number}/tally")
    assert tally["failures"] == [{"reason": "the carrier refused it", "texts": 1, "may_retry": True}]
    assert tally["sentence"] == "1 of 2 texts sent, 1 failed. 1 held, not sent."
    answer = office.client.get(f"/api/rounds/{number}/marked-sheet.csv")
    lines = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
    assert [line["Mark"] for line in lines] == ["Sent", "Failed", "Held"]
    assert lines[0]["Due"] == "186.40"
    assert lines[0]["Reference"]
    assert lines[2]["Reason"] == "Mobile: one digit short for Canada"
    office.again(f"/api/rounds/{number}", which="failed", texts=1)
    office.run()
    standing = office.call("GET", f"/api/rounds/{number}/rows/2/standing")
    assert [h["mark"] for h in standing["history"]] == ["Going", "Failed", "To go", "Going", "Sent"]
    assert office.client.get(f"/api/rounds/{number}/marked-sheet.xlsx").content[:2] == b"PK"


def test_unsure_rows_are_asked_about(office):
    office.carrier.answers["+19025550128"] = [Silent("x")]
    office.carrier.deaf = True
    number = office.started()
    office.run()
    tally = office.call("GET", f"/api/rounds/{number}/tally")
    assert (tally["unsure"], tally["stage"], tally["away"]["reason"]) == (1, "sending", "deaf")
    asked = len(office.carrier.asked_at)
    office.carrier.deaf = False
    assert office.call("POST", f"/api/rounds/{number}/ask")["unsure"] == 1
    assert len(office.carrier.asked_at) == asked, "a window only wishes; the sender asks"
    office.run()
    tally = office.call("GET", f"/api/rounds/{number}/tally")
    assert (tally["unsure"], tally["stage"], tally["away"]) == (0, "finished", None)


def test_two_first_openers_at_once(tmp_path):
    opened = []

    def opener():
        database = Database(tmp_path / "new" / "ledger.sqlite3")
        database.migrate()
        with database.reading() as session:
            opened.append(session.connection().exec_driver_sql("SELECT count(*) FROM rounds").scalar_one())
        database.close()

    openers = [threading.Thread(target=opener) for _ in range(2)]
    for thread in openers:
        thread.start()
    for thread in openers:
        thread.join()
    assert opened == [0, 0]


def test_compute_command(tmp_path, capsys):
    sheet, recipe, out = tmp_path / "s.csv", tmp_path / "r.toml", tmp_path / "out.csv"
    sheet.write_text(SHEET)
    recipe.write_text(f'wording = "{WORDING}"\n[columns."First name"]\nfallback = "there"\n')
    command = ["compute", str(sheet), "--recipe", str(recipe), "--out", str(out)]
    assert main(command) == 0
    lines = list(csv.DictReader(io.StringIO(out.read_text())))
    assert lines[1]["text"] == "Hello there, berth C15 has $50.00 to pay."
    assert [line["mark"] for line in lines] == ["Ready", "Ready", "Held"]
    assert main([*command, "--json"]) == 0
    assert json.loads(out.read_text().splitlines()[0])["parts"] == 1
    out.unlink()
    recipe.write_text('wording = "{Debt}"')
    assert main(command) == 2
    assert 'No column is called "Debt"' in capsys.readouterr().err
    assert not out.exists()
    sheet.write_text("Name\nInes\n")
    recipe.write_text('wording = "Hi"')
    assert main(command) == 2
    assert "mobile number" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("setting", "value", "says"),
    [
        ("PORT", "abc", 'GENTLE_LEDGER_PORT cannot be used: it is "abc"'),
        ("REGION", "Atlantis", "ISO 3166-1"),
        ("DATA", "/proc/nowhere/ledger.sqlite3", "cannot be kept in"),
        ("DATA", __file__, "file is not a database"),
    ],
)
def test_a_setting_that_cannot_be_used_is_a_sentence(monkeypatch, tmp_path, capsys, setting, value, says):
    if value == __file__:
        value = str(tmp_path / "notes.txt")
        Path(value).write_text("no ledger " * 20)
    monkeypatch.setenv(f"GENTLE_LEDGER_{setting}", value)
    assert main(["serve", *([] if setting == "PORT" else ["--port", str(free_port())])]) == 2
    assert says in capsys.readouterr().err


def test_every_setting_has_words():
    assert all(field.description for field in Settings.model_fields.values())


def test_every_setting_stands_in_the_readme():
    readme = (Path(__file__).parents[2] / "README.md").read_text("utf-8")
    for name, field in Settings.model_fields.items():
        assert f"| `{name.upper()}` | {field.description} |" in readme


UNUSABLE = [
    # what another version, or damage, left as the set-up; what is said to be lost; what stays
    ('{"title": "Dues", "wording": "Hi {Berth}", "echo": 3}', ["echo"], "Hi {Berth}"),
    ('{"title": "Dues", "wording": "Hi {Berth}", "pace": {"every": -1}}', ["pace"], "Hi {Berth}"),
    (
        '{"wording": "Hi {Berth}", "columns": {"Due": {"role": "tide"}, "Berth": {"role": "text"}}}',
        ["Due"],
        "Hi {Berth}",
    ),
    ('{"wording": 5, "region": "XX"}', ["wording", "region"], ""),
    ('{"wording": "Hi {Berth}", "leave_out": [{"when": 1}]}', ["leave_out"], "Hi {Berth}"),
    ('{"wording": "Hi', ["all of it"], ""),
    ("[]", ["all of it"], ""),
    ("[" * 90_000, ["all of it"], ""),
]


@pytest.mark.parametrize(("kept", "lost", "wording"), UNUSABLE)
def test_a_round_whose_set_up_cannot_be_used_opens_says_so_and_can_be_mended(office, kept, lost, wording):
    number = office.bring()
    with office.app.state.context.database.writing() as session:
        session.get_one(Round, number).recipe = kept
        session.get_one(Round, number).version += 1
    desk = office.call("GET", f"/api/rounds/{number}")
    assert sorted(desk["unusable"]) == sorted(lost)
    assert desk["wording"] == wording
    assert office.call("GET", "/api/rounds")[0]["id"] == number
    refused = office.call("PUT", f"/api/rounds/{number}/wording", 409, json={"wording": "x", "row": 1})
    assert lost[0] in refused["detail"]
    for method, path, body in (
        ("GET", "confirmation", None),
        ("POST", "start", {"seal": "x"}),
        ("PATCH", "", {"title": "x"}),
        ("PATCH", "rows/1", {"left_out": True}),
    ):
        office.call(method, f"/api/rounds/{number}/{path}".rstrip("/"), 409, json=body)
    desk = office.call("POST", f"/api/rounds/{number}/recipe/mend")
    assert desk["unusable"] == []
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hello {Berth}", "row": 1})
    assert office.call("GET", f"/api/rounds/{number}")["wording"] == "Hello {Berth}"


def test_a_round_whose_set_up_cannot_be_used_can_be_removed(office):
    number = office.bring()
    with office.app.state.context.database.writing() as session:
        session.get_one(Round, number).recipe = "{"
    office.call("DELETE", f"/api/rounds/{number}", 204)


def test_the_price_of_a_part_is_the_line_s_by_country(tmp_path):
    settings = {"price_per_part": "0.04", "price_currency": "USD", "prices": {"US": "0.075"}, "most_parts": 2}
    program = assemble(Settings(data=tmp_path / "l.sqlite3", port=8090, **settings), pool=POOL)
    client = TestClient(program.app, base_url="http://127.0.0.1:8090", headers=OWN)
    text = f"Name,Mobile\nIna,902-555-0128\nBo,207-555-0129\n{'x' * 400},902-555-0130\n"
    number = client.post("/api/rounds", files={"file": ("a.csv", text)}).json()["id"]
    client.put(f"/api/rounds/{number}/wording", json={"wording": "Hello {Name}", "row": 1})
    asked = client.get(f"/api/rounds/{number}").json()["which_country"]
    assert asked == [{"region": "US", "country": "United States", "rows": 1, "first": 2}]
    desk = client.patch(f"/api/rounds/{number}", json={"countries": ["US"]}).json()
    assert (desk["which_country"], desk["countries"]) == ([], ["US"])
    assert (desk["estimate"]["parts"], desk["estimate"]["cost"]) == (2, "US$0.12")
    assert [client.get(f"/api/rounds/{number}/rows/{row}/slip").json()["cost"] for row in (1, 2)] == [
        "US$0.04",
        "US$0.08",
    ]
    assert "the line takes at most 2" in client.get(f"/api/rounds/{number}/rows?mark=Held").json()["rows"][0]["reason"]
    program.database.close()
