"""What a sheet leaves open is asked at the glance and on the desk, and answered in one press; the rows wait."""

import io
import json

import pytest
import xlsxwriter
import xlwt

from tests.core.test_files_as_they_come import WORD, as_ods, as_xlsx, ods_row

OPEN = "Name,Mobile,Due,When\n" + "".join(
    f'P{n},902-555-01{n:02},"{due}",{when}\n'
    for n, (due, when) in enumerate([("1,234", "05/11/2026"), ("12,50", "06/11/2026"), ("7", "2026-11-30")])
)
WORDING = "{Name}: {Due}"


def marks(office, path):
    return [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]]


def column(desk, name):
    return next(c for c in desk["columns"] if c["name"] == name)


def test_a_question_is_asked_at_the_glance_and_its_answer_is_kept(office):
    files = {"file": ("open.csv", OPEN)}
    seen = office.call("POST", "/api/rounds/glance", files=files)
    due = seen["read_as"][2]
    assert (seen["asks"], due["name"], due["order"], due["evidence"]) == (True, "Due", None, "")
    assert due["question"]["ask"] == "“1,234” in row 1 and “12,50” in row 2: how does this column write its figures?"
    assert [a["order"] for a in due["question"]["answers"]] == ["decimal point", "decimal comma", "each by itself"]
    refused = office.client.post("/api/rounds", files=files, data={"ask": "1"})
    assert (refused.status_code, "how Due and When are read" in refused.json()["detail"]) == (409, True)
    answers = json.dumps({"Due": "decimal comma", "When": "day first"})
    made = office.call("POST", "/api/rounds", 201, files=files, data={"answers": answers})
    desk = office.call("GET", f"/api/rounds/{made['id']}")
    found = column(desk, "Due")
    assert (found["reading"], found["read_as"], found["question"]) == ("decimal comma", "decimal comma", None)
    again = office.call("POST", "/api/rounds", 201, files=files, data={"ask": "1", "like": made["id"]})
    assert column(office.call("GET", f"/api/rounds/{again['id']}"), "When")["reading"] == "day first"
    for wrong in ("[1]", '{"Due": "sideways"}', '{"Debt": "day first"}'):
        office.call("POST", "/api/rounds", 422, files=files, data={"answers": wrong})


def test_rows_wait_on_the_desk_until_the_question_is_answered(office):
    path = f"/api/rounds/{office.bring(OPEN)}"
    office.call("PUT", f"{path}/wording", json={"wording": WORDING, "row": 1})
    assert marks(office, path) == ["Held", "Held", "Ready"]
    desk = office.call("GET", path)
    assert (column(desk, "Due")["awaited"], column(desk, "When")["awaited"]) == (True, False)
    assert (desk["findings"][0]["check"], desk["findings"][0]["rows"]) == ("question", 2)
    office.call("PATCH", f"{path}/columns", json={"name": "Due", "reading": "each by itself"})
    assert marks(office, path) == ["Held", "Ready", "Ready"]
    assert column(office.call("GET", path), "Due")["awaited"] is False
    office.call("PATCH", f"{path}/columns", json={"name": "Due", "reading": "decimal point"})
    assert marks(office, path) == ["Ready"] * 3
    slip = office.call("GET", f"{path}/rows/1/slip")
    assert "".join(run["text"] for part in slip["parts"] for run in part) == "P0: $1,234.00"


def test_two_columns_of_one_name_hold_all_rows_until_it_is_said_which_counts(office):
    first = office.bring("Name,Mobile,Due,Paid\nInes,902-555-0128,142.50,100\n")
    formula = {"name": "Owing", "formula": "{Due} - {Paid}", "format": None}
    office.call("PUT", f"/api/rounds/{first}/columns/computed", json=formula)
    office.call("PUT", f"/api/rounds/{first}/wording", json={"wording": "{Owing}", "row": 1})
    saved = "Name,Mobile,Due,Paid,Owing\nInes,902-555-0128,142.50,100,142.50\n"
    for computed, says in ((True, "$42.50"), (False, "$142.50")):
        files = {"file": ("december.csv", saved)}
        path = f"/api/rounds/{office.call('POST', '/api/rounds', 201, files=files, data={'like': first})['id']}"
        desk = office.call("GET", path)
        assert (desk["doubled"], marks(office, path)) == (["Owing"], ["Held"])
        desk = office.call("POST", f"{path}/columns/doubled", json={"name": "owing", "computed": computed})
        assert (desk["doubled"], marks(office, path)) == ([], ["Ready"])
        slip = office.call("GET", f"{path}/rows/1/slip")
        assert "".join(run["text"] for part in slip["parts"] for run in part) == says
        office.call("POST", f"{path}/columns/doubled", 422, json={"name": "Owing", "computed": computed})


def test_characters_that_are_open_are_chosen_at_the_glance(office):
    files = {"file": ("names.csv", "Name,Mobile\nŁukasz Żółty,902-555-0128\n".encode("cp1250"))}
    seen = office.call("POST", "/api/rounds/glance", files=files)
    assert ("windows-1250", "Łukasz") in {(c["name"], c["word"]) for c in seen["characters"]}
    assert (seen["trouble"], seen["asks"]) == (None, True)
    office.call("POST", "/api/rounds", 422, files=files)
    chosen = {"characters": "windows-1250"}
    assert office.call("POST", "/api/rounds/glance", files=files, data=chosen)["lines"][1][0] == "Łukasz Żółty"
    made = office.call("POST", "/api/rounds", 201, files=files, data=chosen)
    assert office.call("GET", f"/api/rounds/{made['id']}/rows")["rows"][0]["cells"][0]["shown"] == "Łukasz Żółty"


def test_hidden_rows_are_taken_back_in_one_press(office):
    files = {"file": ("dues.xlsx", as_xlsx([(1, "0"), (2, "0"), (3, "0")], hidden=[2]))}
    path = f"/api/rounds/{office.call('POST', '/api/rounds', 201, files=files)['id']}"
    desk = office.call("GET", path)
    assert (desk["hidden"], desk["leave_out_hidden"], marks(office, path)[1]) == (1, True, "Left out")
    row = office.call("GET", f"{path}/rows")["rows"][1]
    assert row["reason"] == "hidden in the workbook"
    office.call("PATCH", f"{path}/rows/1/cells", json={"column": "Name", "typed": "Ines"})
    assert marks(office, path)[1] == "Left out", "mending another row does not show it"
    office.call("PATCH", path, json={"leave_out_hidden": False})
    assert marks(office, path)[1] != "Left out"


TORN = "Name,Mobile,Due,Note\nInes,902-555-0128,12,50,\nBo,902-555-0111,113,75,\n"


def test_commas_that_may_part_a_cell_are_asked_about_once(office):
    file = {"file": ("dues.csv", TORN)}
    seen = office.call("POST", "/api/rounds/glance", files=file)
    (asked,) = seen["commas"]
    assert (asked["column"], asked["whole"], asked["apart"], seen["trouble"]) == (
        "Due",
        "12,50",
        "12 in Due, 50 in Note",
        None,
    )
    assert "is that 12,50 in Due" in office.call("POST", "/api/rounds", 422, files=file)["detail"]
    said = {"commas": '{"Due": "within cells"}'}
    assert [row[2] for row in office.call("POST", "/api/rounds/glance", files=file, data=said)["lines"]][1:] == [
        "12,50",
        "113,75",
    ]
    assert (
        "cannot be read"
        in office.call("POST", "/api/rounds", 422, files=file, data={"commas": '{"Due": "x"}'})["detail"]
    )
    made = office.call("POST", "/api/rounds", 201, files=file, data=said)["id"]
    again = office.call("POST", "/api/rounds", 201, files=file, data={"like": made, "ask": 1})["id"]
    for number in (made, again):
        rows = office.call("GET", f"/api/rounds/{number}/rows")["rows"]
        assert [row["cells"][2]["shown"] for row in rows] == ["$12.50", "$113.75"]


def test_which_column_texts_go_to_is_asked_where_names_do_not_say(office):
    sheet = "Name,Mobile,Cell,Old mobile\nInes,902-555-0128,506-555-0128,902-555-0100\n"
    path = f"/api/rounds/{office.bring(sheet)}"
    office.call("PUT", f"{path}/wording", json={"wording": "Hello {Name}", "row": 1})
    asked = [(each["column"], each["example"]) for each in office.call("GET", path)["which_number"]]
    assert asked == [("Mobile", "902-555-0128"), ("Cell", "506-555-0128")]
    assert [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]] == ["Held"]
    desk = office.call("PATCH", f"{path}/columns", json={"name": "Cell", "role": "mobile number"})
    assert desk["which_number"] == []
    assert [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]] == ["Ready"]
    asked = office.call("POST", f"{path}/confirmation", json={"rows": None})
    assert (asked["numbers_from"], asked["passed_over"]) == ("Cell", ["Mobile", "Old mobile"])


ROWS = [
    ["Saltmarsh Quay, berth dues"],
    ["Name", "Mobile", "Cell", "Due", "When", "Status"],
    ["Łukasz", "902-555-0128", "902-555-0140", "1,234", "05/11/2026", "sent"],
    ["", "", "", "", "", ""],
    ["Zoë", "207-555-0129", "902-555-0141", "12,50", "06/11/2026", ""],
    *(["Bo", f"902-555-013{i}", f"902-555-015{i}", "7", "07/11/2026", ""] for i in range(4)),
    ["Total"],
]
SHEETS = {"Dues": ROWS, "Rates": [["Class", "Rate", "From"], ["A", "14", "May"]], "Old": ROWS[1:3]}


def _csv():
    text = "\n".join(",".join(f'"{cell}"' if "," in cell else cell for cell in row) for row in ROWS)
    return text.encode("windows-1250")


def _xlsx():
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        for name, rows in SHEETS.items():
            page = book.add_worksheet(name)
            for r, row in enumerate(rows):
                page.write_row(r, 0, row)
        page.hide()
    return out.getvalue()


def _xls():
    out, book = io.BytesIO(), xlwt.Workbook()
    for name, rows in SHEETS.items():
        page = book.add_sheet(name)
        for r, row in enumerate(rows):
            for c, cell in enumerate(row):
                page.write(r, c, cell)
    book.save(out)
    return out.getvalue()


def _ods():
    dues, rates, old = ([ods_row(*map(WORD.format, row)) for row in rows] for rows in SHEETS.values())
    return as_ods([*dues, NEXT.format("Rates"), *rates, NEXT.format("Old"), *old])


NEXT = '</table:table><table:table table:name="{}">'
KINDS = {"csv": _csv, "xlsx": _xlsx, "xls": _xls, "ods": _ods}


@pytest.mark.parametrize("kind", KINDS)
def test_a_sheet_made_like_last_month_s_opens_without_a_question(office, kind):
    file = {"file": (f"dues.{kind}", KINDS[kind]())}
    office.call("POST", "/api/rounds", 422 if kind == "csv" else 409, files=file, data={"ask": 1})
    answers = json.dumps({"Due": "decimal comma", "When": "day first"})
    chosen = {"characters": "windows-1250"} if kind == "csv" else {"worksheet": "Dues"}
    made = office.call("POST", "/api/rounds", 201, files=file, data={**chosen, "answers": answers})["id"]
    path = f"/api/rounds/{made}"
    office.call("PUT", f"{path}/wording", json={"wording": "{Name}: {Due} by {When}", "row": 1})
    office.call("PATCH", f"{path}/columns", json={"name": "Mobile", "role": "mobile number"})
    office.call("PATCH", path, json={"countries": ["US"]})
    office.call("POST", f"{path}/columns/sent", json={"name": "Status", "leave_out": True})
    again = office.call("POST", "/api/rounds", 201, files=file, data={"like": made, "ask": 1})["id"]
    recipe = {"recipe": ("last.toml", office.client.get(f"{path}/recipe.toml").content)}
    by_file = office.call("POST", "/api/rounds", 201, files={**file, **recipe}, data={"ask": 1})["id"]
    for number in (again, by_file):
        desk = office.call("GET", f"/api/rounds/{number}")
        assert (desk["which_number"], desk["which_country"]) == ([], [])
        assert not any(column["awaited"] for column in desk["columns"])
        rows = office.call("GET", f"/api/rounds/{number}/rows")["rows"]
        assert [row["mark"] for row in rows] == ["Left out", *["Ready"] * 5]
        assert rows[0]["cells"][0]["shown"] == "Łukasz"
