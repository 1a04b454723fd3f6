"""Rows that go together: one hand-over, marks for all, whatever breaks in between."""

from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import select

from gentle_ledger.core.recipe.model import CombineSettings, Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.sending.lines import Refused, Silent
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.freezing import freeze
from gentle_ledger.store.models import LedgerEntry, Message
from gentle_ledger.store.rounds import add_round
from tests.sending.world import START, CountingCarrier, HandClock, empty_ledger

ROWS = [
    ("Ines", "902-555-0101", "C14"),
    ("Bo", "902-555-0102", "C15"),
    ("Ines", "902-555-0101", "D02"),
    ("Cal", "902-555-0103", "E01"),
    ("Ines", "902-555-0101", "D04"),
    ("Bo", "902-555-0102", "E02"),
]
RECIPE = Recipe(
    wording="{Name}: {Berth}",
    pace=PaceSettings(every=10, give_or_take=0),
    combine=CombineSettings(by="Mobile", columns={"Berth": "listed"}),
)
TEXTS = {"Ines: C14, D02 and D04", "Bo: C15 and E02", "Cal: E01"}


class Quay:
    """A started round of combined rows, and a sender that can be started anew."""

    def __init__(self, folder):
        self.clock = HandClock()
        self.carrier = CountingCarrier(self.clock)
        self.database = empty_ledger(folder)
        sheet = Sheet(("Name", "Mobile", "Berth"), ROWS)
        with self.database.writing() as session:
            found = add_round(session, sheet, RECIPE, "a.csv", None, START)
            self.round_id = found.id
            freeze(session, found, frozen_rows(compute_round(sheet, RECIPE), "UTC"), START)
        self.sender = Sender(self.database, self.carrier, self.clock)

    def run(self, steps=40):
        for _ in range(steps):
            if self.sender.act() is None:
                return
            self.clock.passed += 11

    def marks(self):
        with self.database.reading() as session:
            wanted = select(Message.mark).where(Message.round_id == self.round_id).order_by(Message.row)
            return list(session.scalars(wanted))

    def close(self):
        self.database.close()


@pytest.fixture
def quay(tmp_path):
    made = Quay(tmp_path)
    yield made
    made.close()


def test_each_person_gets_one_text_and_every_row_its_mark(quay):
    quay.run()
    assert Counter(text for _, text in quay.carrier.arrived) == Counter(TEXTS)
    assert quay.marks() == ["Sent"] * 6
    with quay.database.reading() as session:
        going = list(session.scalars(select(LedgerEntry).where(LedgerEntry.mark == "Going")))
        references = session.execute(select(Message.row, Message.reference)).all()
    assert len(going) == 3
    assert len({reference for row, reference in references if row in {1, 3, 5}}) == 1


def test_rows_of_a_text_are_going_together(quay):
    quay.sender.act()
    quay.carrier.answers["+19025550102"] = [Silent("nothing heard")]
    quay.run(3)
    marks = quay.marks()
    assert [marks[i] for i in (0, 2, 4)] == ["Sent"] * 3
    assert marks[1] == marks[5]


@pytest.mark.parametrize("answer", [Refused("the number is not in use", False), Silent("the line was cut")])
def test_what_becomes_of_the_text_becomes_of_all_its_rows(quay, answer):
    quay.carrier.answers["+19025550101"] = [answer]
    quay.run()
    marks = quay.marks()
    assert len({marks[i] for i in (0, 2, 4)}) == 1
    assert marks[0] in {"Failed", "Unsure"}


def test_every_row_has_the_text_that_the_person_got(quay):
    quay.run()
    with quay.database.reading() as session:
        rows = session.execute(select(Message.row, Message.text, Message.with_row).order_by(Message.row)).all()
    assert [text for _, text, _ in rows] == [
        "Ines: C14, D02 and D04",
        "Bo: C15 and E02",
        "Ines: C14, D02 and D04",
        "Cal: E01",
        "Ines: C14, D02 and D04",
        "Bo: C15 and E02",
    ]
    assert [with_row for _, _, with_row in rows] == [None, None, 1, None, 1, 2]


ANSWERS = st.sampled_from(["lost", "refused", "silent", "accepted"])


@settings(max_examples=25)
@given(st.lists(st.tuples(st.integers(1, 3), ANSWERS), max_size=5), st.lists(st.integers(1, 6), max_size=3))
def test_nobody_gets_a_text_twice_whatever_the_carrier_says(tmp_path_factory, answers, restarts):
    quay = Quay(tmp_path_factory.mktemp("quay"))
    try:
        made = {"lost": "lost", "refused": Refused("busy", True), "silent": Silent("nothing heard")}
        for number, answer in answers:
            if answer in made:
                quay.carrier.answers.setdefault(f"+190255501{number:02}", []).append(made[answer])
        for steps in (*restarts, 40):
            quay.run(steps)
            quay.sender = Sender(quay.database, quay.carrier, quay.clock)
        assert all(n == 1 for n in Counter(quay.carrier.arrived).values())
        marks = quay.marks()
        assert marks[0] == marks[2] == marks[4]
        assert marks[1] == marks[5]
    finally:
        quay.close()
