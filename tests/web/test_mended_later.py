"""Rows that are mended after sending began: what is locked, what waits for a word, and that nothing goes twice."""

from random import Random

import pytest
from sqlalchemy import select, update
from sqlalchemy.exc import IntegrityError

from gentle_ledger.sending.lines import Refused
from gentle_ledger.store.models import Attempt, LedgerEntry, Message
from tests.web.office import WORDING

SHEET = """\
First name,Mobile,Berth,Due
Ines,902-555-0128,C14,186.40
Bo,902-555-012,C15,50
Ada,902-555-0130,C16,9
Cy,902-555-0131,C17,12
"""
BO = "Hello Bo, berth C15 has $50.00 to pay."
TOGETHER = "First name,Mobile,Berth,Due\nInes,902-555-0128,C14,100\nInes,902-555-0128,D02,30\nInes,902-555-012,E07,7\n"


class Hands:
    """Somebody at the desk of one round."""

    def __init__(self, office, sheet=SHEET, wording=WORDING, **recipe) -> None:
        self.office = office
        self.number = office.bring(sheet)
        self.path = f"/api/rounds/{self.number}"
        office.call("PUT", f"{self.path}/wording", json={"wording": wording, "row": 1})
        if recipe:
            office.call("PATCH", self.path, json=recipe)

    def start(self, rows=None):
        seal = self.office.call("POST", f"{self.path}/confirmation", json={"rows": rows})["seal"]
        self.office.call("POST", f"{self.path}/start", json={"seal": seal, "rows": rows})
        return self

    def mend(self, row, column, typed, status=200):
        body = {"column": column, "typed": typed}
        return self.office.call("PATCH", f"{self.path}/rows/{row}/cells", status, json=body)

    def call(self, method, path, status=200, **more):
        return self.office.call(method, f"{self.path}/{path}", status, **more)

    def rows(self):
        return self.call("GET", "rows")["rows"]

    def marks(self):
        return [row["mark"] for row in self.rows()]

    def send_mended(self, texts=1, rows=None):
        self.office.again(self.path, which="ready", texts=texts, rows=rows)
        self.office.run()

    @property
    def arrived(self):
        return self.office.carrier.arrived

    def texts(self):
        with self.office.app.state.context.database.reading() as session:
            found = session.scalars(select(Message).where(Message.round_id == self.number))
            return {each.row: (each.mark, each.address, each.text, each.with_row) for each in found}

    def to_go(self):
        return {text[1:3] for text in self.texts().values() if text[0] == "To go" and text[3] is None}

    def of(self, row, wanted=Message):
        with self.office.app.state.context.database.reading() as session:
            text = session.scalars(select(Message).where(Message.round_id == self.number, Message.row == row)).one()
            if wanted is Message:
                return text
            return list(session.scalars(select(wanted).where(wanted.message_id == text.id).order_by(wanted.id)))


def test_what_was_held_is_mended_and_goes_in_the_same_round(office):
    hands = Hands(office).start()
    office.run()
    assert hands.marks() == ["Sent", "Held", "Sent", "Sent"]
    assert [row["locked"] for row in hands.rows()] == [True, False, True, True]
    hands.mend(2, "Mobile", "902-555-0129")
    standing = hands.call("GET", "rows/2/standing")
    assert (standing["mark"], standing["findings"]) == ("Ready", [])
    assert hands.call("GET", "tally")["ready"] == 1
    office.run()
    assert len(hands.arrived) == 3, "nothing goes that nobody confirmed"
    asked = hands.call("POST", "confirmation", json={"rows": None})
    assert (asked["texts"], asked["slips"][0]["slip"]["number"]) == (1, "+19025550129")
    hands.send_mended()
    assert hands.arrived[3:] == [("+19025550129", BO)]
    assert hands.call("GET", "tally")["sentence"] == "All 4 texts sent."


def test_a_held_row_that_is_still_wrong_stays_held(office):
    hands = Hands(office).start()
    office.run()
    hands.mend(2, "Mobile", "902-555-01")
    row = hands.rows()[1]
    assert row["mark"] == "Held"
    assert "digits" in row["reason"]
    hands.call("POST", "again", 409, json={"which": "ready", "texts": 1, "seal": "x"})


@pytest.mark.parametrize("row", [1, 3])
def test_what_went_is_locked(office, row):
    hands = Hands(office).start()
    office.run()
    before = hands.of(row)
    said = hands.mend(row, "Due", "1", 409)["detail"]
    assert said.startswith(f"Row {row} was handed over already")
    assert (hands.of(row).text, hands.rows()[row - 1]["cells"][3]["shown"]) == (before.text, before.text.split()[5])


@pytest.mark.parametrize("uncertain", [True, False])
def test_what_may_have_gone_is_locked(office, uncertain):
    """To go again after a try of which nobody knows; the near miss is one that the carrier surely did not take."""
    hands = Hands(office).start()
    with office.app.state.context.database.writing() as session:
        mine = (Message.round_id == hands.number, Message.row == 3)
        session.execute(update(Message).where(*mine).values(uncertain=uncertain))
    hands.mend(3, "Due", "10", 409 if uncertain else 200)


@pytest.mark.parametrize("paused", [True, False])
def test_what_is_still_to_go_is_mended_and_waits_for_a_word(office, paused):
    hands = Hands(office).start()
    if paused:
        hands.call("POST", "pause")
    hands.mend(3, "Due", "19")
    assert hands.marks() == ["To go", "Held", "Ready", "To go"]
    if paused:
        hands.call("POST", "go-on")
    office.run()
    assert hands.marks() == ["Sent", "Held", "Ready", "Sent"]
    hands.send_mended()
    assert sorted(hands.arrived)[1] == ("+19025550130", "Hello Ada, berth C16 has $19.00 to pay.")
    assert len(hands.arrived) == 3


def test_a_scheduled_round_can_be_taken_back_after_a_row_was_mended(office):
    hands = Hands(office, pace={"start": "2027-01-04T09:00:00"}).start()
    hands.mend(3, "Due", "19")
    assert hands.call("POST", "take-back")["stage"] == "preparing"


def test_what_failed_for_its_number_is_mended_and_goes_under_another_reference(office):
    hands = Hands(office)
    office.carrier.answers["+19025550130"] = [Refused("the number is not in service", True)]
    hands.start()
    office.run()
    assert hands.marks() == ["Sent", "Held", "Failed", "Sent"]
    [first] = hands.of(3, Attempt)
    hands.mend(3, "Mobile", "902-555-0135")
    hands.send_mended()
    text = "Hello Ada, berth C16 has $9.00 to pay."
    assert hands.arrived[2:] == [("+19025550135", text)]
    assert [each.reference == first.reference for each in hands.of(3, Attempt)] == [True, False]
    said = [entry.reason for entry in hands.of(3, LedgerEntry)]
    assert f"until then the text was: {text} (to +19025550130)" in said, "what was handed over stays on record"


def test_a_row_goes_in_no_text_that_went_without_it(office):
    combine = {"by": "Mobile", "columns": {"Due": "sum", "Berth": "listed"}}
    hands = Hands(office, TOGETHER, "{First name}: {Berth}, {Due}", combine=combine).start()
    office.run()
    hands.mend(3, "Mobile", "902-555-0128")
    assert hands.marks() == ["Sent", "Sent", "Ready"]
    hands.send_mended()
    assert [text for _, text in hands.arrived] == ["Ines: C14 and D02, $130.00", "Ines: E07, $7.00"]


def test_rows_that_are_mended_together_are_one_text(office):
    combine = {"by": "Mobile", "columns": {"Due": "sum", "Berth": "listed"}}
    sheet = TOGETHER.replace("902-555-0128,D02", "902-555-012,D02")
    hands = Hands(office, sheet, "{First name}: {Berth}, {Due}", combine=combine).start()
    office.run()
    hands.mend(2, "Mobile", "902-555-0129")
    hands.mend(3, "Mobile", "902-555-0129")
    hands.send_mended()
    assert [text for _, text in hands.arrived] == ["Ines: C14, $100.00", "Ines: D02 and E07, $37.00"]


@pytest.mark.parametrize(("due", "mark"), [("186.40", "Held"), ("186.41", "Ready")])
def test_no_text_goes_twice_for_being_mended(office, due, mark):
    """The row above: no check of a sheet holds the first of two, and it is the later one that went."""
    sheet = f"First name,Mobile,Berth,Due\nInes,902-555-012,C14,{due}\nInes,902-555-0128,C14,186.40\n"
    hands = Hands(office, sheet).start()
    office.run()
    hands.mend(1, "Mobile", "902-555-0128")
    assert hands.marks() == [mark, "Sent"]
    if mark == "Held":
        assert hands.rows()[0]["reason"] == "same number and same text as row 2"
        hands.call("PATCH", "rows/1", json={"released": True, "reason": "two moorings at one berth"})
        hands.send_mended()
        assert len(hands.arrived) == 2


def test_undo_takes_a_mended_cell_back_until_its_text_went(office):
    hands = Hands(office).start()
    office.run()
    hands.mend(2, "Mobile", "902-555-0129")
    hands.call("POST", "undo")
    assert hands.marks()[1] == "Held"
    hands.call("POST", "redo")
    assert hands.marks()[1] == "Ready"
    hands.send_mended()
    assert "handed over already" in hands.call("POST", "undo", 409)["detail"]
    assert len(hands.arrived) == 4


def test_a_held_row_can_be_let_go_later(office):
    sheet = SHEET.replace("902-555-012,", "902-555-0128,").replace("Bo", "Ines").replace("C15,50", "C14,186.40")
    hands = Hands(office, sheet).start()
    office.run()
    assert hands.marks()[1] == "Held"
    assert hands.call("GET", "rows/2/standing")["releasable"]
    row = hands.call("PATCH", "rows/2", json={"released": True, "reason": "two berths under one number"})
    assert row["mark"] == "Ready"
    hands.call("PATCH", "rows/2", 409, json={"left_out": True})
    hands.send_mended()
    assert hands.arrived[0] in hands.arrived[1:], "the clerk said so, and why"
    assert any("two berths" in entry.reason for entry in hands.of(2, LedgerEntry))


def test_a_row_that_would_have_been_combined_with_one_that_went_is_let_go_by_itself(office):
    combine = {"by": "Mobile", "columns": {"Due": "sum", "Berth": "listed"}}
    sheet = "First name,Mobile,Berth,Due\nInes,902-555-0128,C14,100\nInes,902-555-012,C14,100\n"
    hands = Hands(office, sheet, "{First name}: {Berth}, {Due}", combine=combine).start()
    office.run()
    hands.mend(2, "Mobile", "902-555-0128")
    assert hands.marks() == ["Sent", "Held"]
    hands.call("PATCH", "rows/2", json={"released": True, "reason": "two moorings at one berth"})
    assert hands.marks() == ["Sent", "Ready"]
    hands.send_mended()
    assert len(hands.arrived) == 2


def test_a_disk_without_room_keeps_nobody_from_looking(office, monkeypatch):
    hands = Hands(office).start()
    office.run()
    monkeypatch.setattr("gentle_ledger.web.rounds.view.finish_looking", lambda *_: None)
    hands.mend(2, "Mobile", "902-555-0129")
    full = "CREATE TRIGGER full BEFORE UPDATE ON messages BEGIN SELECT RAISE(ABORT, 'database or disk is full'); END"
    with office.app.state.context.database.writing() as session:
        session.connection().exec_driver_sql(full)
    assert office.call("GET", hands.path)["stage"] == "finished"
    assert hands.marks()[1] == "Held"


def test_who_was_not_looked_at_anew_is_so_when_the_desk_is_opened(office, monkeypatch):
    """The program ends right after the mended cell was kept."""
    hands = Hands(office).start()
    office.run()
    monkeypatch.setattr("gentle_ledger.web.rounds.view.finish_looking", lambda *_: None)
    hands.mend(2, "Mobile", "902-555-0129")
    assert hands.rows()[1]["reason"] == "mended since sending began, and not looked at anew yet"
    hands.call("POST", "again", 409, json={"which": "ready", "texts": 1, "seal": ""})
    office.call("GET", hands.path)
    assert hands.marks()[1] == "Ready"


def test_the_store_itself_keeps_what_went_as_it_is(office):
    hands = Hands(office).start()
    office.run()
    change = update(Message).where(Message.id == hands.of(1).id)
    for column in ("text", "address", "with_row", "place"):
        with office.app.state.context.database.writing() as session:
            with pytest.raises(IntegrityError):
                session.execute(change.values({column: 7}))
            session.rollback()


NUMBERS = [f"902-555-01{i:02}" for i in range(6)]
TYPED = {"Mobile": [*NUMBERS, "902-555-01"], "Due": ["5", "6.50", "seven"], "First name": ["Ann", "Bo", ""]}
ACTS = ["mend"] * 8 + ["run", "one", "again", "again", "undo", "redo", "pause", "go-on", "stop", "keep-back"]


@pytest.mark.parametrize("seed", range(4))
def test_whatever_is_mended_what_arrives_was_confirmed_and_goes_once(office, seed):
    """Seen by the carrier, with rows combined and without: `seed` says how."""
    hand = Random(seed)
    rows = "".join(f"{hand.choice(['Ann', 'Bo'])},{hand.choice(TYPED['Mobile'])},C{i},{i}\n" for i in range(1, 8))
    combine = {"combine": {"by": "Mobile", "columns": {"Due": "sum", "Berth": "listed"}}} if seed % 2 else {}
    office.carrier.answers["+19025550102"] = [Refused("the number is not in service", True)]
    hands = Hands(office, f"First name,Mobile,Berth,Due\n{rows}", **combine).start()
    confirmed = hands.to_go()
    for _ in range(30):
        before, act = hands.texts(), hand.choice(ACTS)
        if act == "mend":
            column = hand.choice(list(TYPED))
            body = {"column": column, "typed": hand.choice(TYPED[column])}
            office.client.patch(f"{hands.path}/rows/{hand.randrange(1, 8)}/cells", json=body)
        elif act == "run":
            office.run(60)
        elif act == "one":
            office.sender.act()
            office.clock.passed += 5
        elif act == "again":
            asked = office.client.post(f"{hands.path}/confirmation", json={"rows": None}).json()
            body = {"which": "ready", "texts": asked["texts"] or 1, "seal": asked["seal"]}
            office.client.post(f"{hands.path}/again", json=body)
            confirmed |= hands.to_go()
        else:
            office.client.post(f"{hands.path}/{act}")
        for row, now in hands.texts().items():
            assert now == before[row] or before[row][0] != "Sent", (act, row)
            assert now[1:] == before[row][1:] or now[0] in {"Held", "Ready", "Left out"}, (act, row)
    office.client.post(f"{hands.path}/go-on")
    office.run(3000)
    sent = [text[1:3] for text in hands.texts().values() if text[0] == "Sent" and text[3] is None]
    assert sorted(hands.arrived) == sorted(sent)
    assert len(set(sent)) == len(sent)
    assert set(sent) <= confirmed
