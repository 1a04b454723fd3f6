"""Wordings, stretches, levels of checks, releases, and who asked for no more texts, over HTTP."""

import csv
import io

import pytest

from gentle_ledger.core.recipe.toml import recipe_from_toml

SHEET = (
    "First name,Mobile,Due,Days late\n"
    "Ines,902-555-0128,186.40,3\nBo,902-555-0111,20,45\nAda,902-555-0112,0,2\nKofi,902-555-0113,30,oops\n"
)
WORDING = "Hello {First name}, {Due} to pay."
FINAL = {"name": "Final reminder", "when": "{Days late} > 30", "text": "{First name}: {Due} is late."}


@pytest.fixture
def number(office):
    made = office.bring(SHEET)
    office.call("PUT", f"/api/rounds/{made}/wording", json={"wording": WORDING, "row": 1})
    office.call("PUT", f"/api/rounds/{made}/wordings", json=FINAL)
    return made


def texts(office, number):
    lines = office.client.get(f"/api/rounds/{number}/marked-sheet.csv").content.decode("utf-8-sig")
    return [(line["Mark"], line["Text"], line["Reason"]) for line in csv.DictReader(io.StringIO(lines))]


def test_each_row_reads_its_own_and_the_desk_says_how_many(office, number):
    desk = office.call("GET", f"/api/rounds/{number}")
    assert [(each["name"], each["rows"]) for each in desk["wordings"]] == [("Final reminder", 1), (None, 2)]
    assert [text for _, text, _ in texts(office, number)][:2] == ["Hello Ines, $186.40 to pay.", "Bo: $20.00 is late."]
    slips = [office.call("GET", f"/api/rounds/{number}/rows/{row}/slip")["wording"] for row in (1, 2, 4)]
    assert slips == ["main wording", "Final reminder", None]
    for name, rows in (("final reminder", [2]), ("main wording", [1, 3])):
        found = office.call("GET", f"/api/rounds/{number}/rows?wording={name}")
        assert [row["number"] for row in found["rows"]] == rows


def test_what_is_typed_goes_into_the_wording_it_was_typed_for(office, number):
    path = f"/api/rounds/{number}/wording"
    body = {"of": "Final reminder", "wording": "Late: {Due}", "was": FINAL["text"], "row": 2}
    answer = office.call("PUT", path, json=body)
    assert (answer["of"], "".join(run["text"] for run in answer["slip"]["parts"][0])) == (
        "Final reminder",
        "Late: $20.00",
    )
    assert office.call("GET", f"/api/rounds/{number}")["wording"] == WORDING
    behind = office.call("PUT", path, 409, json={**body, "wording": "Mine"})
    assert behind["theirs"] == "Late: {Due}"
    office.call("PUT", path, 422, json={"of": "Second", "wording": "x", "row": 1})


def test_a_wording_is_renamed_ordered_removed_and_comes_back(office, number):
    path = f"/api/rounds/{number}/wordings"
    office.call("PUT", path, json={"name": "Paid", "when": "{Due} = 0", "text": "Thank you"})
    office.call("PUT", path, json={"name": "Last word", "when": "{Days late} > 40", "was": "final reminder"})
    desk = office.call("POST", f"{path}/order", json={"names": ["Paid", "Last word"]})
    assert [(each["name"], each["text"]) for each in desk["wordings"]] == [
        ("Paid", "Thank you"),
        ("Last word", FINAL["text"]),
        (None, WORDING),
    ]
    office.call("POST", f"{path}/order", 422, json={"names": ["Paid", "Paid"]})
    office.call("PUT", path, 422, json={"name": "Paid", "when": "TRUE"})
    office.call("PUT", path, 422, json={"name": "Other", "when": "{Due} >"})
    desk = office.call("DELETE", f"{path}?name=Paid")
    assert len(desk["wordings"]) == 2
    assert desk["undo"] == "removing the wording “Paid”"
    assert len(office.call("POST", f"/api/rounds/{number}/undo")["wordings"]) == 3
    saved = recipe_from_toml(office.client.get(f"/api/rounds/{number}/recipe.toml").text)
    assert [each.name for each in saved.wordings] == ["Paid", "Last word"]


def test_marked_words_become_a_column_for_some_rows(office, number):
    body = {"before": "Hello {First name}, {Due}", "stretch": " to pay", "when": "{Due} > 100", "name": "Much"}
    desk = office.call("POST", f"/api/rounds/{number}/wordings/stretch", json=body)
    assert desk["wording"] == "Hello {First name}, {Due}{Much}."
    assert texts(office, number)[0][1] == "Hello Ines, $186.40 to pay."
    office.call("POST", f"/api/rounds/{number}/wordings/stretch", 422, json=body)


def test_a_level_is_set_for_the_round_and_what_it_holds_is_let_go_with_a_reason(office, number):
    path = f"/api/rounds/{number}"
    assert [mark for mark, _, _ in texts(office, number)] == ["Ready", "Ready", "Held", "Held"]
    desk = office.call("PATCH", path, json={"checks": {"nothing due": "look"}})
    assert (desk["checks"], [mark for mark, *_ in texts(office, number)][2]) == ({"nothing due": "look"}, "Ready")
    office.call("PATCH", path, 422, json={"checks": {"number": "off"}})
    office.call("PATCH", path, json={"checks": {}})
    why = office.call("PATCH", f"{path}/rows/3", 422, json={"released": True})["detail"]
    assert "needs a reason" in why
    released = office.call("PATCH", f"{path}/rows/3", json={"released": True, "reason": " she  asked for it "})
    assert released["mark"] == "Ready"
    assert office.call("GET", f"{path}/rows/3/standing")["released"] == "she asked for it"
    said = "released by hand: she asked for it (held because Due is nothing)"
    assert texts(office, number)[2] == ("Ready", "Hello Ada, $0.00 to pay.", said)
    office.call("PATCH", f"{path}/rows/3/cells", json={"column": "Due", "typed": "-4"})
    assert texts(office, number)[2][0] == "Held", "that is not what the row was let go from"
    office.call("PATCH", f"{path}/rows/3/cells", json={"column": "Due", "typed": "4"})
    assert texts(office, number)[2] == ("Ready", "Hello Ada, $4.00 to pay.", ""), "what was mended was not let go"
    assert office.call("GET", f"{path}/rows/3/standing")["released"] is None


def test_the_reason_stands_in_the_ledger_and_in_the_marked_sheet(office, number):
    path = f"/api/rounds/{number}"
    office.call("PATCH", f"{path}/rows/3", json={"released": True, "reason": "she asked"})
    seal = office.call("GET", f"{path}/confirmation")["seal"]
    office.call("POST", f"{path}/start", json={"seal": seal})
    said = "released by hand: she asked (held because Due is nothing)"
    history = office.call("GET", f"{path}/rows/3/standing")["history"]
    assert [(each["mark"], each["reason"]) for each in history] == [("To go", said)]
    assert texts(office, number)[2][2] == said
    assert not office.call("GET", f"{path}/rows/1/standing")["history"]
    office.run()
    history = office.call("GET", f"{path}/rows/3/standing")["history"]
    assert [each["mark"] for each in history] == ["To go", "Going", "Sent"], "on record before its text"
    assert [each["reason"] for each in history] == [said, "", ""]


def test_who_asked_for_no_more_texts_is_held_in_every_round_and_never_released(office, number):
    path = f"/api/rounds/{number}"
    asked = {"number": "902 555 0128", "on": "2026-10-02", "how": "by phone"}
    noted = office.call("POST", "/api/no-more-texts", 201, json=asked)
    assert (noted["entry"]["number"], noted["left_out"]) == ("+19025550128", 0)
    mark, _, reason = texts(office, number)[0]
    assert (mark, reason) == ("Held", "asked on 2026-10-02 for no more texts (by phone)")
    refused = office.call("PATCH", f"{path}/rows/1", 404, json={"released": True, "reason": "sure"})
    assert "cannot be released" in refused["detail"]
    office.call("POST", "/api/no-more-texts", 409, json=asked)
    office.call("POST", "/api/no-more-texts", 422, json={**asked, "number": "12"})
    office.call("POST", "/api/no-more-texts", 422, json={**asked, "number": "902 555 0129", "on": "2999-01-01"})
    office.call("DELETE", f"/api/no-more-texts/{noted['entry']['id']}", 204)
    assert texts(office, number)[0][0] == "Ready"
    assert office.call("GET", "/api/no-more-texts") == []


def test_what_is_still_to_go_to_who_asks_is_left_out_and_stays_so(office, number):
    path = f"/api/rounds/{number}"
    office.call("POST", f"{path}/start", json={"seal": office.call("GET", f"{path}/confirmation")["seal"]})
    noted = office.call("POST", "/api/no-more-texts", 201, json={"number": "+19025550128", "on": "2026-10-02"})
    assert noted["left_out"] == 1
    marks = [(mark, reason) for mark, _, reason in texts(office, number)]
    assert marks[0] == ("Left out", "asked for no more texts before this one went")
    assert marks[1][0] == "To go"
    office.call("POST", f"{path}/stop")
    again = office.again(path, 409, which="stopped", texts=2)
    assert "there are 1 text now, not 2" in again["detail"]


def test_plain_characters_are_written_in_wording_and_values_at_once_and_undone_in_one(office):
    text = "First name,Mobile,Due\nD’Arcy,902-555-0128,5\nZoë,902-555-0111,6\n"
    number = office.bring(text)
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hello {First name} – {Due}", "row": 1})
    path = f"/api/rounds/{number}"
    assert [each["character"] for each in office.call("GET", f"{path}/weight")["costly"]] == ["–", "’", "ë"]
    office.call("POST", f"{path}/weight/replace", 422, json={"characters": "日"})
    desk = office.call("POST", f"{path}/weight/replace", json={"characters": "’–"})
    assert [said for _, said, _ in texts(office, number)] == ["Hello D'Arcy - $5.00", "Hello Zoë - $6.00"]
    assert desk["undo"] == "writing plain characters for “’” and “–”"
    office.call("POST", f"{path}/undo")
    assert [said for _, said, _ in texts(office, number)] == ["Hello D’Arcy – $5.00", "Hello Zoë – $6.00"]


def test_a_wording_is_kept_taken_out_for_another_round_renamed_removed_and_brought_back(office, number):
    kept = office.call("POST", "/api/drawer", 201, json={"name": "  Dues ", "text": "{First name}: {Due} {Boat}"})
    assert kept["name"] == "Dues"
    office.call("POST", "/api/drawer", 409, json={"name": "dues", "text": "x"})
    path = f"/api/rounds/{number}/drawer"
    own, *shipped = office.call("GET", path)
    assert (own["name"], own["number"], len(shipped)) == ("Dues", kept["number"], 7)
    assert [(need["name"], need["there"], need["column"]) for need in own["needs"]] == [
        ("First name", True, "First name"),
        ("Due", True, "Due"),
        ("Boat", False, None),
    ]
    body = {"key": own["key"], "of": "Final reminder", "columns": {"Boat": "Days late"}}
    desk = office.call("POST", f"{path}/take", json=body)
    assert [each["text"] for each in desk["wordings"]] == ["{First name}: {Due} {Days late}", WORDING]
    assert office.call("POST", f"/api/rounds/{number}/undo")["wordings"][0]["text"] == FINAL["text"]
    office.call("POST", f"{path}/take", json={"key": "receipt", "columns": {"Amount": "Due"}})
    office.call("POST", f"{path}/take", 404, json={"key": "nothing of the kind"})
    one = f"/api/drawer/{kept['number']}"
    assert office.call("PATCH", one, json={"name": "Berth dues"})["name"] == "Berth dues"
    office.call("DELETE", one, 204)
    assert len(office.call("GET", path)) == 7
    office.call("POST", f"{path}/take", 404, json={"key": own["key"]})
    office.call("POST", f"{one}/restore", 204)
    assert office.call("GET", path)[0]["name"] == "Berth dues"


def test_who_writes_is_known_in_the_next_round_and_looked_for_in_its_texts(office, number):
    path = f"/api/rounds/{number}"
    assert office.call("GET", path)["sender"] == ""
    found = office.call("PATCH", path, json={"sender": "Saltmarsh Quay"})
    assert ("sender", 2) in [(each["check"], each["rows"]) for each in found["findings"]]
    assert office.call("GET", f"/api/rounds/{office.bring(SHEET)}")["sender"] == "Saltmarsh Quay"
