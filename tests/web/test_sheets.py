"""Sheets through the interface: a glance first, mending with undo, a newer version, and last month's set-up again."""

import json

import pytest

from tests.web.office import SHEET, WORDING, Office  # noqa: F401 - the fixture

MESSY = """\
Saltmarsh Quay,,,
November 2026,,,
First name,Mobile,Berth,Due
Ines,902-555-0128,C14,186.40
,,,
Bo,902-555-0111,C15,50
Total,,,236.40
"""


def names(found):
    return [column["name"] for column in found["columns"]]


def test_a_glance_shows_how_a_file_would_be_read(office):
    seen = office.call("POST", "/api/rounds/glance", files={"file": ("messy.csv", MESSY)})
    assert (seen["header"], seen["rows"], seen["asks"]) == (3, 2, True)
    assert seen["reading"] == "2 lines above the column names, 1 blank row and 1 row of totals left out"
    assert [read["role"] for read in seen["read_as"]] == ["name", "mobile number", "reference", "money"]
    assert [read["order"] for read in seen["read_as"]] == [None, None, None, "decimal point"]
    assert seen["lines"][1][0] == "November 2026"
    assert seen["parts"] == ["above the names"] * 2 + ["names", "row", "blank", "row", "totals"]
    longer = MESSY.replace("Total", "Cy,902-555-0113,C16,1\n" * 12 + "Total").replace("236.40", "248.40").encode()
    parts = office.call("POST", "/api/rounds/glance", files={"file": ("long.csv", longer)})["parts"]
    assert parts[3:] == ["row", "blank", *["row"] * 10], "what lies past the lines shown is not guessed at"
    gap = b"First name,,Mobile\nInes,,902-555-0128\n"
    read = office.call("POST", "/api/rounds/glance", files={"file": ("gap.csv", gap)})["read_as"]
    assert [column and column["role"] for column in read] == ["name", None, "mobile number"]
    deep = ("Saltmarsh Quay\n" * 20 + "First name,Mobile\nInes,902-555-0128\n").encode()
    seen = office.call("POST", "/api/rounds/glance", files={"file": ("deep.csv", deep)}, data={"header": 21})
    assert (seen["header"], seen["parts"][20:]) == (21, ["names", "row"]), "the names are among the lines shown"
    seen = office.call("POST", "/api/rounds/glance", files={"file": ("messy.csv", MESSY)}, data={"header": 4})
    assert seen["columns"] == ["Ines", "902-555-0128", "C14", "186.40"]
    assert not office.call("POST", "/api/rounds/glance", files={"file": ("a.csv", SHEET)})["asks"]
    made = office.call("POST", "/api/rounds", 201, files={"file": ("messy.csv", MESSY)})
    assert "1 row of totals left out" in office.call("GET", f"/api/rounds/{made['id']}")["reading"]


def test_mended_cells_can_be_undone_and_done_again(office):
    path = f"/api/rounds/{office.bring()}"
    office.call("PUT", f"{path}/wording", json={"wording": WORDING, "row": 1})
    mend = lambda row, column, typed: office.call(  # noqa: E731
        "PATCH", f"{path}/rows/{row}/cells", json={"column": column, "typed": typed}
    )
    row = lambda n: office.call("GET", f"{path}/rows")["rows"][n - 1]  # noqa: E731
    assert row(3)["mark"] == "Held"
    mend(3, "Mobile", "902-555-0129")
    desk = mend(3, "Due", "19.50")
    assert (row(3)["mark"], row(3)["cells"][3]["shown"], row(3)["cells"][3]["original"]) == ("Ready", "$19.50", "9")
    assert desk["undo"] == '"19.50" in row 3, Due'
    assert office.call("GET", f"{path}/rows/3/slip")["number"] == "+19025550129"
    assert office.call("GET", f"{path}/rows?words=19.50")["total"] == 1
    office.call("POST", f"{path}/undo")
    desk = office.call("POST", f"{path}/undo")
    assert (row(3)["mark"], row(3)["cells"][3]["original"], desk["undo"]) == ("Held", None, "the wording")
    while office.call("GET", path)["undo"]:
        office.call("POST", f"{path}/undo")
    office.call("POST", f"{path}/undo", 409)
    assert office.call("POST", f"{path}/redo")["wording"] == WORDING
    desk = office.call("POST", f"{path}/redo")
    assert (row(3)["mark"], desk["redo"]) == ("Ready", '"19.50" in row 3, Due')
    office.call("POST", f"{path}/rows", 201)
    desk = mend(4, "First name", "Maren")
    assert (desk["rows"], desk["redo"]) == (4, None), "what was undone is gone once something else is done"
    office.call("POST", f"{path}/undo")
    assert office.call("POST", f"{path}/undo")["rows"] == 3
    assert office.call("POST", f"{path}/redo")["rows"] == 4
    assert office.call("PATCH", f"{path}/rows/9/cells", 404, json={"column": "Due", "typed": "1"})


def test_a_mended_cell_counts_as_if_it_had_been_brought_in_like_that(office):
    """Only what comes from the cell is read anew; the outcome is that of reading all anew."""
    text = SHEET + "Cal,902-555-0130,C17,12,5\n".replace("12,5", '"12,5"')
    one, other = office.bring(), office.bring(SHEET.replace("186.40", '"186,40"').replace("C16,9", "C16,19"))
    for number in (one, other):
        office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
        office.call("GET", f"/api/rounds/{number}/rows")
    office.call("PATCH", f"/api/rounds/{one}/rows/1/cells", json={"column": "Due", "typed": "186,40"})
    office.call("PATCH", f"/api/rounds/{one}/rows/3/cells", json={"column": "Due", "typed": "19"})
    shown = [
        [cell["shown"] for row in office.call("GET", f"/api/rounds/{n}/rows")["rows"] for cell in row["cells"]]
        for n in (one, other)
    ]
    assert shown[0] == shown[1]
    assert text


NEWER = """\
First name,Mobile,Berth,Due,Boat
Ines,902-555-0128,C14,200.00,Dunlin
Bo,902-555-0129,C16,9.0,Marram
Cal,902-555-0130,C17,12,Eelgrass
"""


def test_a_newer_version_is_looked_at_before_it_is_taken(office):
    path = f"/api/rounds/{office.bring()}"
    office.call("PATCH", f"{path}/rows/3", json={"left_out": True})
    files = {"file": ("december.csv", NEWER)}
    seen = office.call("POST", f"{path}/newer/glance", files=files)
    assert (seen["key"], seen["new"], seen["changed"], seen["gone"]) == ("Berth", 1, 2, 1)
    assert [(c["row"], c["column"], c["before"], c["after"]) for c in seen["changes"]] == [
        (1, "Due", "186.40", "200.00"),
        (2, "Mobile", "902-555-012", "902-555-0129"),
    ]
    assert (seen["columns_new"], seen["gone_rows"][0]["row"]) == (["Boat"], 2)
    office.call("PATCH", path, json={"title": "Changed meanwhile"})
    stale = {"key": "Berth", "version": seen["version"]}
    assert "Compare them once more" in office.call("POST", f"{path}/newer", 409, files=files, data=stale)["detail"]
    desk = office.call("POST", f"{path}/newer", files=files, data={**stale, "version": seen["version"] + 1})
    assert (desk["rows"], desk["file_name"], names(desk)[-1]) == (3, "december.csv", "Boat")
    rows = office.call("GET", f"{path}/rows")["rows"]
    assert [row["mark"] == "Left out" for row in rows] == [False, True, False], "what was left out stays so"
    bad = {"file": ("bad.csv", "First name,Mobile,Berth,Due\nA,1,C14,1\nB,2,C14,1\n")}
    refused = office.call("POST", f"{path}/newer/glance", 422, files=bad, data={"key": "Berth"})
    assert 'Berth has "C14" in rows 1 and 2' in refused["detail"]


def test_the_same_again_next_month(office):
    """From an earlier round, and from its recipe as a file; a column that is called otherwise is matched by hand."""
    number = office.bring()
    path = f"/api/rounds/{number}"
    office.call("PUT", f"{path}/wording", json={"wording": WORDING, "row": 1})
    office.call("PUT", f"{path}/columns/computed", json={"name": "Half", "formula": "{Due} / 2", "format": "money"})
    recipe = office.client.get(f"{path}/recipe.toml").content
    sheet = SHEET.replace("Berth", "Slip no")
    for more in ({"data": {"like": number}}, {"files": {"recipe": ("recipe.toml", recipe)}}):
        files = {"file": ("december-dues.csv", sheet), **more.get("files", {})}
        made = office.call("POST", "/api/rounds", 201, files=files, data=more.get("data", {}))
        again = f"/api/rounds/{made['id']}"
        desk = office.call("GET", again)
        assert (desk["title"], [u["name"] for u in desk["unmatched"]], names(desk)[-1]) == (
            "December dues",
            ["Berth"],
            "Half",
        )
        desk = office.call("POST", f"{again}/columns/match", json={"name": "Berth", "column": "Slip no"})
        assert (desk["unmatched"], desk["wording"]) == ([], WORDING.replace("{Berth}", "{Slip no}"))
    bad = {"file": ("a.csv", SHEET), "recipe": ("r.toml", b"wording = 1")}
    assert '"wording"' in office.call("POST", "/api/rounds", 422, files=bad)["detail"]


NUMBERS = """\
First name,Mobile
Ines,902-555-0128
Bo,902-555-0111 ext 7
Cal,902-555-0112 ext 8
Di,902-555
"""


def test_numbers_are_tidied_by_batch(office):
    path = f"/api/rounds/{office.bring(NUMBERS)}"
    seen = office.call("GET", f"{path}/numbers")
    batch = next(g for g in seen["batches"] if "extension" in g["sentence"])
    assert [a["action"] for a in batch["actions"]] == ["no extension", "leave out"]
    row = office.call("GET", f"{path}/numbers", params={"batch": batch["key"]})["rows"][0]
    assert (row["row"], row["typed"], row["label"]) == (2, "902-555-0111 ext 7", "Bo")
    desk = office.call("POST", f"{path}/numbers", json={"batch": batch["key"], "action": "no extension"})
    assert desk["undo"] == "mending 2 cells"
    rows = office.call("GET", f"{path}/numbers")["rows"]
    assert [row["e164"] for row in rows] == ["+19025550128", "+19025550111", "+19025550112", ""]
    assert (rows[0]["country"], rows[0]["zone"]) == ("Canada", "America/Halifax")
    office.call("POST", f"{path}/undo")
    assert office.call("GET", f"{path}/numbers")["rows"][1]["typed"] == "902-555-0111 ext 7"
    office.call("POST", f"{path}/numbers", json={"batch": batch["key"], "action": "leave out"})
    marks = [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]]
    assert marks.count("Left out") == 2
    office.call("POST", f"{path}/numbers", 404, json={"batch": batch["key"], "action": "leave out"})
    office.call("POST", f"{path}/numbers", 422, json={"batch": "no code", "action": "read as", "country": "XX"})


def test_leaving_rows_out_is_undone_like_any_other_change(office):
    path = f"/api/rounds/{office.bring()}"
    office.call("PATCH", f"{path}/rows/2", json={"left_out": True})
    desk = office.call("GET", path)
    assert (desk["undo"], desk["counts"][2]["rows"]) == ("leaving row 2 out", 1)
    desk = office.call("POST", f"{path}/undo")
    assert (desk["redo"], desk["counts"][2]["rows"]) == ("leaving row 2 out", 0)
    assert office.call("POST", f"{path}/redo")["counts"][2]["rows"] == 1


MENDED = """\
First name,Mobile,Berth,Due
Ines,902-555-0128,C14,186.40
Ann,902-555-0111,C15,55
Bo,902-555-0129,C16,9
"""


def cells(office, path):
    rows = office.call("GET", f"{path}/rows")["rows"]
    return [[cell["shown"] if cell["typed"] is None else cell["typed"] for cell in row["cells"]] for row in rows]


@pytest.mark.parametrize(
    ("said", "due", "name", "rows"),
    [
        ({"cells": [[2, "Due", True]]}, "52", "Ann", 4),
        ({"cells": [[2, "Due", False]]}, "55", "Ann", 4),
        ({"cells": [[2, "Due", True]], "rest": False, "added": False}, "52", "Ann", 3),
        ({"rest": True}, "52", "Anne", 4),
    ],
)
def test_what_was_mended_here_is_kept_or_chosen_cell_by_cell(office, said, due, name, rows):
    path = f"/api/rounds/{office.bring()}"
    for row, column, typed in (
        (2, "First name", "Anne" if name == "Anne" else "Ann"),  # blank in the file, and Ann in the newer one
        (2, "Due", "52"),
        (3, "Mobile", "902-555-0121"),  # a digit short in the file
        (1, "Due", "186.40 "),
    ):
        office.call("PATCH", f"{path}/rows/{row}/cells", json={"column": column, "typed": typed})
    office.call("PATCH", f"{path}/rows/3", json={"left_out": True})
    for _ in range(2):  # two blank rows at the end, and something in one of them
        office.call("POST", f"{path}/rows", 201)
    office.call("PATCH", f"{path}/rows/5/cells", json={"column": "First name", "typed": "Cy"})
    files = {"file": ("newer.csv", MENDED)}
    seen = office.call("POST", f"{path}/newer/glance", files=files)
    asked = {(cell["row"], cell["column"]): cell["doubtful"] for cell in seen["mended"]}
    assert asked == {(2, "Due"): True, (3, "Mobile"): True} | ({(2, "First name"): True} if name == "Anne" else {})
    assert (seen["key"], seen["gone"], seen["added_in_all"], seen["changed"]) == ("Berth", 0, 1, 0)
    data = {"key": seen["key"], "version": seen["version"]}
    refused = office.call("POST", f"{path}/newer", 409, files=files, data=data)
    assert "was mended here, and is another one in the newer version too" in refused["detail"]
    said = {"rest": None, **said, "cells": [*said.get("cells", []), [3, "Mobile", True]]}
    office.call("POST", f"{path}/newer", files=files, data={**data, "mended": json.dumps(said)})
    found = cells(office, path)
    assert (found[1][3], found[1][0], found[2][1], len(found)) == (due, name, "902-555-0121", rows)
    assert found[3:] == [["Cy", "", "", ""]][: rows - 3]
    listed = office.call("GET", f"{path}/rows")["rows"]
    assert [row["mark"] == "Left out" for row in listed][:3] == [False, False, True]
    original = listed[1]["cells"][3]["original"]
    assert original == ("55" if due == "52" else None), "what the newer file has stays beside it"
    office.call("POST", f"{path}/undo")
    assert len(cells(office, path)) == 5


def test_a_newer_version_that_is_as_before_takes_nothing_back(office):
    path = f"/api/rounds/{office.bring()}"
    office.call("PATCH", f"{path}/rows/3/cells", json={"column": "Berth", "typed": "C61"})
    office.call("PATCH", f"{path}/rows/3/cells", json={"column": "Mobile", "typed": "902-555-0121"})
    office.call("POST", f"{path}/rows", 201)
    files = {"file": ("november-dues.csv", SHEET)}
    seen = office.call("POST", f"{path}/newer/glance", files=files)
    assert (seen["new"], seen["gone"], seen["mended_in_all"], seen["doubtful"], seen["added_in_all"]) == (0, 0, 2, 0, 0)
    before = cells(office, path)[:3]
    office.call("POST", f"{path}/newer", files=files, data={"key": seen["key"], "version": seen["version"]})
    assert cells(office, path) == before
