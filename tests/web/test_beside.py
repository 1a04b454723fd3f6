"""Beside last time over HTTP: what was sent then, as it was sent, beside what is to be sent now."""

from tests.web.office import WORDING

HEAD = "First name,Mobile,Berth,Due\n"
OCTOBER = f"{HEAD}Ines,902-555-0128,C14,100\nBo,902-555-0111,C15,50\nCy,902-555-0113,C16,20\nAda,902-555-0114,C17,30\n"
NOVEMBER = (
    f"{HEAD}Ines,902-555-0128,C14,1000\nBo,902-555-0121,C15,50\nDee,902-555-0115,C18,40\nAda,902-555-0114,C17,31\n"
)


def kinds(found):
    return [(line["kind"], line["row"], line["before"], line["now"], line["percent"]) for line in found["lines"]]


def test_the_amounts_of_the_round_before_stand_beside_those_of_now(office):
    first = office.started(OCTOBER)
    office.run()
    number = office.bring(NOVEMBER)
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": WORDING, "row": 1})
    found = office.call("GET", f"/api/rounds/{number}/beside")
    assert (found["other"]["id"], found["other"]["shared"], found["column"]) == (first, 2, "Due")
    assert kinds(found) == [
        ("other number", 2, "$50.00", "$50.00", 0),
        ("changed", 1, "$100.00", "$1,000.00", 900),
        ("new", 3, "", "$40.00", None),
        ("gone", None, "$20.00", "", None),
        ("much the same", 4, "$30.00", "$31.00", 3),
    ]
    assert (found["lines"][0]["before_number"], found["lines"][0]["number"]) == ("+19025550111", "+19025550121")
    strict = office.call("GET", f"/api/rounds/{number}/beside?percent=2&kind=changed")
    assert [line[:2] for line in kinds(strict)] == [("changed", 1), ("changed", 4)]
    assert strict["counts"]["new"] == 1
    office.call("GET", f"/api/rounds/{number}/beside?other=99", 404)


def test_an_amount_that_was_not_said_then_is_not_compared(office):
    number = office.bring(OCTOBER)
    words = "Hello {First name}, see the office about {Berth}."
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": words, "row": 1})
    seal = office.call("GET", f"/api/rounds/{number}/confirmation")["seal"]
    office.call("POST", f"/api/rounds/{number}/start", json={"seal": seal})
    second = office.bring(NOVEMBER)
    office.call("PUT", f"/api/rounds/{second}/wording", json={"wording": WORDING, "row": 1})
    found = office.call("GET", f"/api/rounds/{second}/beside")
    assert {line["kind"] for line in found["lines"]} == {"unclear", "other number", "new", "gone"}
    assert {line["before"] for line in found["lines"]} == {""}


def test_a_first_round_stands_beside_none(office):
    found = office.call("GET", f"/api/rounds/{office.bring(OCTOBER)}/beside")
    assert (found["other"], found["choices"], found["total"]) == (None, [], 0)
