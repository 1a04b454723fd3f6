"""The look over HTTP: texts oddest first, what was looked at, and what differs from the plain case."""

import csv
import io

import pytest

ROWS = "".join(f"Pia,902-555-01{n:02},{100 + n},C{n}\n" for n in range(10, 30))
SHEET = f"First name,Mobile,Due,Berth\nInes,902-555-0101,9000,C1\nBo,902-555-01,20,C2\nZoë,902-555-0103,115,C3\n{ROWS}"


@pytest.fixture
def number(office):
    made = office.bring(SHEET)
    wording = {"wording": "Hello {First name}, {Due} to pay for {Berth}.", "row": 1}
    office.call("PUT", f"/api/rounds/{made}/wording", json=wording)
    return made


def look(office, number, **query):
    return office.call("GET", f"/api/rounds/{number}/look", params=query)


def see(office, number, row, **more):
    text = office.call("GET", f"/api/rounds/{number}/look/{row}")
    path = f"/api/rounds/{number}/look/{text['row']}/seen"
    office.call("PUT", path, 204, json={"fingerprint": text["fingerprint"], **more})
    return text


def test_what_is_odd_comes_first_and_then_the_rows_in_order(office, number):
    found = look(office, number)
    assert (found["texts"], found["odd"], found["seen"], found["next_odd"]) == (23, 3, 0, 2)
    assert [(line["row"], line["odd"]) for line in found["lines"]][:5] == [
        (2, True),
        (1, True),
        (3, True),
        (4, False),
        (5, False),
    ]
    assert found["lines"][0]["mark"] == "Held"
    assert found["lines"][1]["says"] == ["Due is 9,000, 75 times the usual amount"]
    by_row = look(office, number, order="row", offset=1, limit=2)
    assert [line["row"] for line in by_row["lines"]] == [2, 3]


def test_what_was_looked_at_is_kept_until_number_or_text_is_another(office, number):
    text = see(office, number, 1)
    assert text["differs"] == ["longest of all, with 36 characters", "Due is 75.6 times the usual amount"]
    see(office, number, 4)
    found = look(office, number)
    assert (found["seen"], found["odd_seen"], found["next_odd"]) == (2, 1, 2)
    assert [line["seen"] for line in found["lines"]][:4] == [False, True, False, True]
    path = f"/api/rounds/{number}/rows/1/cells"
    office.call("PATCH", path, json={"column": "Due", "typed": "120"})
    assert look(office, number)["seen"] == 1, "another text asks for another look"
    office.call("PATCH", path, json={"column": "Due", "typed": "9000"})
    assert look(office, number)["seen"] == 2, "the same one again was looked at"
    see(office, number, 4, seen=False)
    assert look(office, number)["seen"] == 1
    office.call("PATCH", f"/api/rounds/{number}/rows/1", json={"left_out": True})
    found = look(office, number)
    assert (found["texts"], found["odd"], found["seen"]) == (22, 2, 0)


def test_before_sending_it_is_said_what_nobody_has_looked_at(office, number):
    said = lambda: office.call("GET", f"/api/rounds/{number}/confirmation")  # noqa: E731
    now = said()
    assert [now[name] for name in ("texts", "odd", "unseen_odd", "unseen", "changed")] == [22, 2, 2, 22, 0]
    assert now["countries"] == [{"name": "Canada", "texts": 22}]
    for row in (1, 3, 4):
        see(office, number, row)
    assert [said()[name] for name in ("unseen_odd", "unseen", "changed")] == [0, 19, 0]
    office.call("PATCH", f"/api/rounds/{number}/rows/4/cells", json={"column": "Due", "typed": "111"})
    assert [said()[name] for name in ("unseen_odd", "unseen", "changed")] == [0, 20, 1]


def test_a_fingerprint_of_another_text_is_no_look(office, number):
    office.call("PUT", f"/api/rounds/{number}/look/1/seen", 204, json={"fingerprint": "0" * 32})
    assert look(office, number)["seen"] == 0


def test_a_text_is_read_beside_its_row_and_its_last_time(office, number):
    office.call("PATCH", f"/api/rounds/{number}/rows/2", json={"left_out": True})
    seal = office.call("GET", f"/api/rounds/{number}/confirmation")["seal"]
    office.call("POST", f"/api/rounds/{number}/start", json={"seal": seal})
    office.run()
    office.call("GET", f"/api/rounds/{number}/look", 409)
    second = office.bring(SHEET.replace("115,C3", "118,C3"))
    office.call("PUT", f"/api/rounds/{second}/wording", json={"wording": "{First name}: {Due}", "row": 1})
    text = office.call("GET", f"/api/rounds/{second}/look/3")
    assert text["last"]["text"] == "Hello Zoë, $115.00 to pay for C3."
    assert "the only one with special characters" in text["differs"]
    cells = {cell["column"]: (cell["shown"], cell["in_text"]) for cell in text["cells"]}
    assert cells == {
        "First name": ("Zoë", True),
        "Mobile": ("902-555-0103", False),
        "Due": ("$118.00", True),
        "Berth": ("C3", False),
    }


def test_all_texts_in_a_table_found_by_words_and_as_files(office, number):
    path = f"/api/rounds/{number}/look/texts"
    found = office.call("GET", path, params={"words": "ZOË $115", "limit": 5})
    assert (found["total"], [(line["row"], line["parts"]) for line in found["lines"]]) == (1, [(3, 1)])
    found = office.call("GET", path, params={"offset": 20})
    assert (found["total"], [line["row"] for line in found["lines"]]) == (23, [21, 22, 23])
    lines = list(csv.DictReader(io.StringIO(office.client.get(f"{path}.csv").content.decode("utf-8-sig"))))
    assert len(lines) == 23
    assert (lines[0]["Row"], lines[0]["Text"], lines[1]["Mark"]) == (
        "1",
        "Hello Ines, $9,000.00 to pay for C1.",
        "Held",
    )
    assert "times the usual amount" in lines[0]["Reason"]
    assert office.client.get(f"{path}.xlsx").content[:2] == b"PK"
    office.call("GET", f"{path}.pdf", 404)


SHARED = "Holder,Mobile,Berth,Due\nKofi Castellane,902-555-0136,B23,150.37\nBrigid Tran,902-555-0136,C01,151.60\n"


def test_rows_of_two_people_become_one_text_once_it_is_said_and_the_look_shows_what_stands_in_it(office):
    path = f"/api/rounds/{office.bring(SHARED)}"
    template = {"name": "Pay", "template": "https://pay.saltmarsh.example/{Berth}"}
    office.call("PUT", f"{path}/columns/computed", json=template)
    line = {"name": "Line", "formula": '{Berth} & ": " & {Due}'}
    office.call("PUT", f"{path}/columns/computed", json=line)
    columns = {"Holder": "first", "Berth": "listed", "Due": "sum", "Line": "listed"}
    office.call("PATCH", path, json={"combine": {"by": "Mobile", "columns": columns}})
    wording = {"wording": "{Holder}: {Due} ({Line}). {Pay}", "row": 1}
    office.call("PUT", f"{path}/wording", json=wording)
    desk = office.call("GET", path)
    assert [[row["label"] for row in group["rows"]] for group in desk["together"]] == [
        ["Kofi Castellane", "Brigid Tran"]
    ]
    assert [(f["check"], f["rows"]) for f in desk["findings"]] == [("two people", 2)]
    stale = office.call("POST", f"{path}/together", 409, json={"row": 2, "version": desk["version"] - 1})
    assert "changed meanwhile" in stale["detail"]
    desk = office.call("POST", f"{path}/together", json={"row": 2, "version": desk["version"]})
    assert (desk["together"], desk["belong_together"], desk["combine"]["texts"]) == ([], 1, 1)
    office.call("POST", f"{path}/together", 409, json={"row": 2, "version": desk["version"]})
    (held,) = desk["findings"]
    assert (held["check"], held["mends"]) == ("joined link", ["one link a row", "leave out"])
    body = {"check": "joined link", "mend": "one link a row", "version": desk["version"]}
    desk = office.call("POST", f"{path}/findings/mend", json=body)
    assert desk["findings"] == [], "the amounts of its rows are its own"
    text = office.call("GET", f"{path}/look/1")
    said = "".join(run["text"] for part in text["slip"]["parts"] for run in part)
    links = "https://pay.saltmarsh.example/B23 and https://pay.saltmarsh.example/C01"
    assert said == f"Kofi Castellane: $301.97 (B23: $150.37 and C01: $151.60). {links}"
    cells = {cell["column"]: (cell["shown"], cell["together"], cell["in_text"]) for cell in text["cells"]}
    assert cells["Due"] == ("$150.37", "$301.97", True)
    assert cells["Holder"] == ("Kofi Castellane", None, True)
    assert cells["Mobile"][1] is None
    assert cells["Berth"] == ("B23", "B23 and C01", False)
    recipe = office.client.get(f"{path}/recipe.toml").text
    again = {"file": ("next.csv", SHARED.replace("Brigid Tran", "B. TRAN")), "recipe": ("r.toml", recipe)}
    made = office.call("POST", "/api/rounds", 201, files=again)
    assert office.call("GET", f"/api/rounds/{made['id']}")["together"] == [], "an initial is no other name"
    office.call("PATCH", f"{path}/rows/2/cells", json={"column": "Holder", "typed": "Brigid Castellane"})
    assert office.call("GET", path)["together_in_all"] == 1, "it is asked again"
