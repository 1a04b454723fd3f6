"""What the hand does in the sheet, through the interface: blocks, finding, undo to any change, and what is no sheet."""

import pytest

from tests.web.office import SHEET


def path_of(office, text=SHEET):
    return f"/api/rounds/{office.bring(text)}"


def test_a_block_is_shown_before_it_covers_and_is_one_change(office):
    path = path_of(office)
    body = {"text": "Di\t902-555-0140\nEd\t902-555-0141", "rows": [1, 2], "columns": ["First name"]}
    refused = office.call("POST", f"{path}/cells/paste", 409, json=body)
    assert refused["kind"] == "see first"
    seen = office.call("POST", f"{path}/cells/paste/glance", json=body)
    assert (seen["covers"], seen["added"], seen["columns"]) == (3, 0, ["First name", "Mobile"])
    assert seen["covered"][0] == {"row": 1, "column": "First name", "before": "Ines", "after": "Di"}
    found = office.call("POST", f"{path}/cells/paste", json={**body, "seen": seen["version"]})
    assert found["undo"] == "pasting 4 cells"
    office.call("POST", f"{path}/cells/paste", 409, json={**body, "text": "a\nb", "seen": seen["version"]})
    office.call("POST", f"{path}/cells", json={"act": "empty", "rows": [1, 2, 3], "columns": ["Berth", "Due"]})
    [first, _] = [change["id"] for change in reversed(office.call("GET", f"{path}/changes")["changes"])]
    found = office.call("POST", f"{path}/undo?upto={first}")
    rows = office.call("GET", f"{path}/rows")["rows"]
    assert [cell["shown"] for cell in rows[0]["cells"]] == ["Ines", "902-555-0128", "C14", "$186.40"]
    assert [change["can_be"] for change in office.call("GET", f"{path}/changes")["changes"]] == ["redone", "redone"]
    assert (found["undo"], found["redo"]) == (None, "pasting 4 cells")


REFUSED = [
    ("cells", {"act": "empty", "rows": [9], "columns": ["Due"]}, 404, "no row 9"),
    ("cells", {"act": "empty", "rows": [1], "columns": ["Debt"]}, 422, 'no column "Debt"'),
    ("cells", {"act": "fill", "rows": [1, 2], "columns": ["Twice"]}, 422, "Twice is worked out"),
    ("cells/paste", {"text": "1", "rows": [1], "columns": ["Twice"]}, 422, "Twice is worked out"),
    ("cells/paste", {"text": "1\t2", "rows": [1], "columns": ["Due"]}, 422, "2 columns wide"),
]


@pytest.mark.parametrize(("place", "body", "status", "said"), REFUSED)
def test_what_cannot_be_done_to_cells_is_said_and_changes_nothing(office, place, body, status, said):
    path = path_of(office)
    office.call("PUT", f"{path}/columns/computed", json={"name": "Twice", "formula": "{Due} * 2"})
    before = office.call("GET", f"{path}/rows")["rows"]
    assert said in office.call("POST", f"{path}/{place}", status, json=body)["detail"]
    assert office.call("GET", f"{path}/rows")["rows"] == before


FOUND = [("ines", [1]), ("9025550128", [1]), ("902-555-0128", [1]), ("186.40", [1]), ("372.80", [1]), ("$18", [1, 3])]


@pytest.mark.parametrize(("words", "rows"), FOUND)
def test_a_row_is_found_by_a_person_a_number_or_an_amount_also_a_computed_one(office, words, rows):
    path = path_of(office)
    office.call("PUT", f"{path}/columns/computed", json={"name": "Twice", "formula": "{Due} * 2", "format": "money"})
    found = office.call("GET", f"{path}/rows", params={"words": words})
    assert [row["number"] for row in found["rows"]] == rows


DOUBTED = [
    ("Dear clerk, thank you\nfor the letter, and\nmy best wishes, as ever\n", "no column of the file seems to have"),
    ("Mobile\n902-555-0101\n902-555-0102\n", "one column only"),
    ("a\nb\nc\n", "one column only"),
    ("Berth,Due\nC14,5\n", "no column of the file seems to have"),
    (SHEET, ""),
    ("Who,Cell\nInes,902-555-0101\n", ""),
]


@pytest.mark.parametrize(("text", "said"), DOUBTED)
def test_a_file_that_is_no_sheet_of_a_round_is_asked_about(office, text, said):
    files = {"file": ("letter.txt", text)}
    seen = office.call("POST", "/api/rounds/glance", files=files)
    assert (said in seen["doubt"], bool(seen["doubt"])) == (True, bool(said))
    answer = office.client.post("/api/rounds", files=files, data={"ask": "1"})
    assert answer.status_code == (409 if said else 201), answer.text
    assert office.call("POST", "/api/rounds", 201, files=files), "asked and answered it comes in"


def test_a_removed_round_is_gone_everywhere_and_comes_back_as_it_was(office):
    path = path_of(office)
    before, number = office.call("GET", path), int(path.rsplit("/", 1)[-1])
    assert office.call("GET", f"{path}/version") == {"version": before["version"], "stage": "preparing"}
    office.call("DELETE", path, 204)
    for place in ("", "/version", "/rows", "/changes"):
        assert "was removed" in office.call("GET", f"{path}{place}", 404)["detail"]
    office.call("POST", f"{path}/undo", 404)
    assert office.call("GET", "/api/rounds") == []
    assert [r["id"] for r in office.call("GET", "/api/rounds/removed")] == [number]
    office.call("POST", f"{path}/restore", 204)
    assert office.call("GET", path) == before
    assert office.call("GET", "/api/rounds/removed") == []


def test_what_another_window_wrote_meanwhile_is_not_covered(office):
    path = path_of(office)
    cell = f"{path}/rows/1/cells"
    office.call("PATCH", cell, json={"column": "Due", "typed": "9", "was": "186.40"})
    refused = office.call("PATCH", cell, 409, json={"column": "Due", "typed": "8", "was": "186.40"})
    assert "changed meanwhile, to “9”" in refused["detail"]
    office.call("PATCH", cell, json={"column": "Due", "typed": "8", "was": " 9 "})
