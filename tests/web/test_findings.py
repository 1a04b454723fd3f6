"""One press that mends a finding: for a row or for all of them, as it was shown, and back in one undo."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.words import spaces_closed

SHEET = (
    "First name,Mobile,Berth,Due\nInes,902-555-0128,C14,186.40\nBo  Ann,902-555-0111,C15,50\n"
    "Cy ,902-555-0113,C16,0\nAda,902-555-0114,C17,0\n"
)


@pytest.fixture
def desk(office):
    number = office.bring(SHEET)
    wording = "Hello {First name}, berth {Berth}  has {Due} to pay ."
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": wording, "row": 1})
    return f"/api/rounds/{number}"


def mend(office, path, check, what, status=200, **more):
    body = {"check": check, "mend": what, "version": office.call("GET", path)["version"], **more}
    return office.call("POST", f"{path}/findings/mend", status, json=body)


def marks(office, path):
    return [row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]]


def test_the_rows_of_a_finding_are_left_out_together_and_taken_back_together(office, desk):
    assert marks(office, desk) == ["Ready", "Ready", "Held", "Held"]
    found = mend(office, desk, "nothing due", "leave out")
    assert marks(office, desk) == ["Ready", "Ready", "Left out", "Left out"]
    office.call("POST", f"{desk}/undo?change={found['change']}")
    assert marks(office, desk) == ["Ready", "Ready", "Held", "Held"]
    mend(office, desk, "nothing due", "leave out", row=4)
    assert marks(office, desk) == ["Ready", "Ready", "Held", "Left out"]


def test_spaces_are_closed_up_in_the_wording_and_in_the_cells(office, desk):
    one = mend(office, desk, "spacing", "close up", row=2)
    assert one["wording"].endswith("  has {Due} to pay .")
    assert office.call("GET", f"{desk}/rows")["rows"][1]["cells"][0]["shown"] == "Bo Ann"
    found = mend(office, desk, "spacing", "close up")
    assert found["wording"] == "Hello {First name}, berth {Berth} has {Due} to pay."
    assert "spacing" not in {each["check"] for each in found["findings"]}
    text = office.call("GET", f"{desk}/rows/2/slip")["parts"]
    assert "".join(run["text"] for part in text for run in part) == "Hello Bo Ann, berth C15 has $50.00 to pay."
    office.call("POST", f"{desk}/undo?change={found['change']}")
    assert office.call("GET", desk)["wording"] == one["wording"]


@pytest.mark.parametrize(
    ("check", "what", "more"),
    [
        ("spacing", "close up", {"row": 99}),
        ("nothing due", "close up", {}),
        ("nothing due", "leave out", {"row": 1}),
        ("wording", "leave out", {}),
        ("repeat", "leave out", {}),
        ("alphabet", "plain characters", {}),
        ("tide", "leave out", {}),
    ],
)
def test_nothing_is_mended_that_was_not_found_or_is_not_offered(office, desk, check, what, more):
    before = office.call("GET", desk)
    mend(office, desk, check, what, 404, **more)
    assert office.call("GET", desk) == before


def test_what_was_changed_since_it_was_shown_is_not_mended(office, desk):
    seen = office.call("GET", desk)["version"]
    office.call("PATCH", f"{desk}/rows/3/cells", json={"column": "Due", "typed": "12"})
    body = {"check": "nothing due", "mend": "leave out", "version": seen}
    assert "changed meanwhile" in office.call("POST", f"{desk}/findings/mend", 409, json=body)["detail"]
    assert marks(office, desk)[3] == "Held"


def test_every_finding_says_what_to_do(office, desk):
    assert all(each["do"].endswith(".") for each in office.call("GET", desk)["findings"])
    standing = office.call("GET", f"{desk}/rows/3/standing")["findings"]
    assert standing[0]["do"] == "Leave the row out, or mend the amount."


CLOSED = {
    "a  b": "a b",
    "a\u00a0 b": "a b",
    "to pay .": "to pay.",
    "Hello , you": "Hello, you",
    "a .5 b": "a .5 b",  # not the end of a sentence
    "  indented": "  indented",
    "end  \nnext": "end  \nnext",
    "one two": "one two",
    "a , , b": "a,, b",
}


@pytest.mark.parametrize(("text", "closed"), CLOSED.items())
def test_spaces_closed(text, closed):
    assert spaces_closed(text) == closed


@given(st.text(alphabet="ab ,.;\n\u00a0", max_size=12))
def test_closing_up_takes_spaces_only_and_ends(text):
    closed = spaces_closed(text)
    bare = str.maketrans("", "", " \u00a0")
    assert closed.translate(bare) == text.translate(bare)
    assert len(closed) <= len(text)
    assert spaces_closed(spaces_closed(closed)) == spaces_closed(closed)
