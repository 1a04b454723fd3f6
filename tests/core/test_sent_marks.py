"""Columns that say which rows were sent: ours are heeded, others asked about, and what is neither is left alone."""

from datetime import date
from decimal import Decimal

import pytest

from gentle_ledger.core.columns.sent_before import answered, heeded
from gentle_ledger.core.recipe.model import CombineSettings, Recipe
from gentle_ledger.core.recipe.toml import recipe_from_toml, recipe_to_toml
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sheets.sent_marks import sent_marks

MARKS = ("Mark", "Time", "Reason", "Reference", "Parts", "Text")


def sheet_with(name, *cells):
    areas = ("902", "506", "782", "709", "204")
    return Sheet(("Mobile", name), [(f"{areas[i // 100]}-555-01{i % 100:02}", cell) for i, cell in enumerate(cells)])


READS_LIKE_ONE = [
    # name, cells, the rows that it says were sent
    ("Status", ("sent", "failed", None), [0]),
    ("Status", ("Sent 12 Nov", "SENT 13 Nov", None, "not sent"), [0, 1]),
    ("State", ("delivered", "pending", "texted"), [0, 2]),
    ("Sent", (date(2026, 11, 1), None, date(2026, 11, 2)), [0, 2]),
    ("Sent on", ("2026-11-01", None, "2026-11-02"), [0, 2]),
    ("Reminded", ("5 Nov", None, None), [0]),
    ("Text sent", ("x", None, "no"), [0]),
    ("Texted?", ("yes", "no", "YES "), [0, 2]),
    ("Texted", (True, False, None), [0]),
    ("Status", tuple(f"sent 2026-11-{i:02}" for i in range(1, 29)), list(range(28))),
    ("Status", (*("open",) * 400, "sent"), [400]),
    ("Status", (*(f"sent 2026-10-{i:02}" for i in range(1, 26)), "texted", "delivered", "failed"), list(range(27))),
    ("Sent on", (*(f"2026-10-{i:02}" for i in range(1, 26)), "no", "no"), list(range(25))),
    ("Sent", ("yes",) * 10 + ("ask Hamish",), list(range(10))),
    ("Status", ("sent  by phone", "sent\u00a0on Monday", "failed"), [0, 1]),
    ("Sent on", ("2026-11-01", None, "02/11/2026"), [0, 2]),
    ("Mark", ("sent", "sent", "to go", "to go"), [0, 1]),
    ("Mark", ("To go", "Going", "Unsure", "Ready", "Left out"), [1, 2]),
    ("Delivered", ("yes", "no", None), [0]),
    ("Delivered", ("1", "0", "0"), [0]),
    ("Delivered", (Decimal(1), Decimal(0), None), [0]),
    ("Delivered", (date(2026, 11, 1), None, None), [0]),
    ("Delivery status", ("DELIVRD", "UNDELIV", "EXPIRED"), [0]),
    ("SMS status", ("sent", "rejected", None), [0]),
    ("Message state", ("ENROUTE", "REJECTD", "ACCEPTD"), [0, 2]),
    ("Delivery date", ("2026-11-01", None, None), [0]),
    ("Sent to customer", ("yes", None, "no"), [0]),
    ("Contacted", ("x", None, None), [0]),
    ("Texted on", ("46356", None, "46357"), [0, 2]),
    ("Texted at", ("10:32", None, "3 pm"), [0, 2]),
    ("Reminders sent", ("2", "0", "1"), [0, 2]),
    ("Envoy\u00e9", ("oui", "non", None), [0]),
    ("Gesendet", ("ja", "nein", "01.11.2026"), [0, 2]),
    ("Enviado", ("s\u00ed", None, None), [0]),
    ("Estado", ("enviado", "pendiente", None), [0]),
    ("Versand", ("nicht gesendet", "gesendet", "gesendet am 3.11."), [1, 2]),
    *(("Status", (other, "Sent"), [1]) for other in ("Scheduled", "Waiting", "New", "Skipped", "rejected", "2", "?")),
    ("Note", ("sent", "sent cheque in May", "SMS sent 3 Nov", "likes tea"), [0, 2]),
    ("Last text", ("3 Nov", None, None), [0]),
    ("Status", ("Sent (first try failed)", "sent: no", "delivered - not yet"), [0]),
]
NONE = [
    ("Status", ("paid", "open", None)),
    ("Status", ("failed", "not sent", "pending")),
    ("Sent by", ("Ines", "Bo", None)),
    ("Note", ("sent cheque in May", "likes tea", "call back", "ask Hamish")),
    ("Sent", ("Ines", "Bo", None)),
    ("Delivered (kWh)", ("118", "90", None)),
    ("SMS", ("yes", "no", None)),
    ("Consent", ("yes", "yes", None)),
    ("Mark", ("Mark", "Anna", None)),
    ("Due date", (date(2026, 11, 1), None, None)),
    ("Sent", (None, None, None)),
    ("Sent to customer", ("Ines Ames", "Bo Quill", None)),
    ("Delivered (m3)", ("1", "0", "3")),
    ("Delivered", ("118", "90", "1")),
    ("Send at", ("2026-12-02 10:00", "2026-12-03", None)),
    ("Text at", ("10:00", "11:00", None)),
    ("Contact", ("yes", "no", None)),
    ("First contact", ("2019-05-01", "2020-06-01", None)),
    ("Payment", ("sent cheque", "sent half", None)),
    ("Boat", ("arrived", "departed", "going")),
    ("Status", ("not delivered", "unsent", "never sent", "undelivered")),
    ("Assent", ("yes", "no", None)),
    ("Status", ("to go", "failed", "held")),
    ("Reminder", ("yes", "no", None)),
]


@pytest.mark.parametrize(("name", "cells", "rows"), READS_LIKE_ONE)
def test_a_column_that_reads_like_one_is_asked_about_and_holds_its_rows(name, cells, rows):
    sheet = sheet_with(name, *cells)
    (marks,) = sent_marks(sheet)
    assert (sorted(marks.rows), marks.ours) == (rows, False)
    recipe = heeded(Recipe(wording="Hello"), sheet)
    assert recipe == Recipe(wording="Hello")
    held = [i for i, mark in enumerate(compute_round(sheet, recipe).marks) if mark == "Held"]
    assert held == rows
    out = answered(recipe, marks.column, True)
    assert [i for i, mark in enumerate(compute_round(sheet, out).marks) if mark == "Left out"] == rows
    assert set(compute_round(sheet, answered(out, marks.column, False)).marks) == {"Ready"}
    assert recipe_from_toml(recipe_to_toml(out)) == out


@pytest.mark.parametrize(("name", "cells"), NONE)
def test_what_says_nothing_of_sending_is_left_alone(name, cells):
    sheet = sheet_with(name, *cells)
    assert sent_marks(sheet) == ()
    assert "Held" not in compute_round(sheet, Recipe(wording="Hello")).marks


def test_our_own_marks_leave_their_rows_out_with_the_reason():
    marks = ("Sent", "Failed", "Unsure", "Held", "Left out", "Going", "To go")
    rows = [(f"902-555-01{i:02}", mark, "", "", "", "1", "Hello") for i, mark in enumerate(marks)]
    sheet = Sheet(("Mobile", *MARKS), rows)
    found = compute_round(sheet, heeded(Recipe(wording="Hello"), sheet))
    assert found.marks == ["Left out", "Ready", "Left out", "Ready", "Ready", "Left out", "Ready"]
    assert found.reason(0) == "Mark says that it was sent"
    taken_back = answered(heeded(Recipe(wording="Hello"), sheet), "Mark", False)
    assert set(compute_round(sheet, taken_back).marks) == {"Ready"}
    assert heeded(taken_back, sheet) == taken_back


SPOILT = {
    # what became of our marked sheet: the names that are left, the mark of the first row, whether it is left out
    "as it was": (MARKS, "Sent", "Left out"),
    "without its references": (("Mark", "Time", "Reason", "Parts", "Text"), "Sent", "Left out"),
    "another order": (("Text", "Mark", "Parts", "Reference", "Time", "Reason"), "SENT ", "Left out"),
    "two columns left": (("Mark", "Text"), "Sent", "Held"),
    "a mark written over": (MARKS, "called her", "Held"),
    "a mark taken away": (MARKS, "", "Held"),
    "no mark column": (("Time", "Reason", "Reference", "Text"), "", "Held"),
    "a mark written over, nothing beside it": (("Mark", "Reason", "Parts", "Text"), "called her", "Held"),
    "a word behind it": (MARKS, "Sent, called her", "Held"),
}


@pytest.mark.parametrize(("names", "mark", "stands"), SPOILT.values(), ids=list(SPOILT))
def test_our_marked_sheet_in_whatever_hands_it_was_sends_no_row_again(names, mark, stands):
    went = {"Mark": mark, "Time": "2026-11-24T12:00:00-04:00", "Reference": "ab12", "Parts": "1", "Text": "Hello"}
    failed = {"Mark": "Failed" if mark else "", "Reason": "no such number", "Parts": "1", "Text": "Hello"}
    kept = {"Mark": "To go", "Text": "Hello"}
    rows = [
        (f"902-555-010{i}", *(cells.get(name) or None for name in names))
        for i, cells in enumerate((went, kept, failed, {}))
    ]
    sheet = Sheet(("Mobile", *names), rows)
    found = compute_round(sheet, heeded(Recipe(wording="Hello"), sheet))
    assert found.marks == [stands, "Ready", "Ready", "Ready"]


def test_columns_that_are_called_like_ours_and_say_something_else_are_left_alone():
    rows = [(f"902-555-010{i}", f"buoy {i}", "10:30", "Q12", "fog", "as agreed") for i in range(3)]
    sheet = Sheet(("Mobile", "Mark", "Time", "Reference", "Reason", "Text"), rows)
    assert sent_marks(sheet) == ()


def test_a_sheet_marked_twice_heeds_both():
    names = ("Mobile", *MARKS, *(f"{name} 2" for name in MARKS))
    rows = [
        ("902-555-0101", "Failed", *[""] * 5, "Sent", *[""] * 5),
        ("902-555-0102", "Sent", *[""] * 5, "Left out", *[""] * 5),
        ("902-555-0103", "Failed", *[""] * 5, "Failed", *[""] * 5),
    ]
    sheet = Sheet(names, rows)
    assert compute_round(sheet, heeded(Recipe(wording="Hello"), sheet)).marks == ["Left out", "Left out", "Ready"]


@pytest.mark.parametrize(
    ("said", "marks"),
    [(("sent", "sent", ""), ["Left out", "Left out", "Ready"]), (("sent", "", ""), ["Held", "Held", "Ready"])],
)
def test_one_text_for_several_rows_is_left_out_whole_or_asked_about(said, marks):
    """A text of combined rows of which only some were sent cannot be sent in part."""
    names = ("Ines", "Ines", "Bo")
    rows = [(f"902-555-010{len(n)}", n, s or None) for n, s in zip(names, said, strict=True)]
    sheet = Sheet(("Mobile", "Name", "Status"), rows)
    recipe = Recipe(
        wording="Hello {Name}", combine=CombineSettings(by="Mobile", columns={}), sent_columns={"Status": True}
    )
    assert compute_round(sheet, recipe).marks == marks
