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
