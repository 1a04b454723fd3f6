"""Every way for a carrier to misbehave: what becomes of the row, of the round, what is said, and how it goes on.

Each line is walked over a real socket with the line the program uses. First the carrier misbehaves at every hand-over
(and, where it says so, whenever it is asked); then it is well again, and everything must go, each text once.
"""

import resource
from dataclasses import dataclass

import pytest

from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending.lines.oma_messaging import OmaMessagingLine
from tests.sending.faulty import (
    Fault,
    FaultyCarrier,
    answer,
    fault,
    hangs_up,
    names_another,
    pours,
    resets,
    says,
    stays_silent,
    takes_and_hangs_up,
    takes_and_says,
    takes_later,
    trickles,
)
from tests.sending.test_sender import stage, try_again
from tests.sending.world import World

TIME_OUT = 0.25
HTML = b"<html><h1>Sorry</h1></html>"
KEEPS = "To go"


@dataclass(frozen=True)
class Case:
    """`mark` is what the first row has while the carrier misbehaves, `paused` whether the round pauses before its
    patience is over, `said` a part of what the screen says."""

    name: str
    post: Fault
    mark: str
    said: str
    ask: Fault | None = None
    paused: bool = False


OUTAGES = [
    Case("500 with a general error", says(fault(500, "SVC0001")), KEEPS, "trouble of its own (500)"),
    Case("500, and asked too", says(fault(500, "SVC0001")), KEEPS, "(500)", ask=says(answer(500))),
    Case("500 without a word", says(answer(500)), KEEPS, "(500)"),
    Case("500 that names a row's fault", says(fault(500, "SVC0004")), KEEPS, "(500)"),
    Case("502 of a gateway", says(answer(502, HTML)), KEEPS, "(502)"),
    Case("503 with HTML", says(answer(503, HTML)), KEEPS, "(503)"),
    Case("503 without a wait", says(fault(503, "POL1010", kind="policyException")), KEEPS, "was busy (503)"),
    Case("503 with seconds", says(answer(503, HTML, "Retry-After: 30\r\n")), KEEPS, "(503)"),
    Case("503 with a date", says(answer(503, HTML, "Retry-After: Fri, 31 Dec 2027 23:59:59 GMT\r\n")), KEEPS, "(503)"),
    Case("504 of a gateway", says(answer(504, HTML)), KEEPS, "(504)"),
    Case("401", says(answer(401, HTML)), KEEPS, "credentials (401)", ask=says(answer(401))),
    Case("403 without a reason", says(answer(403)), KEEPS, "(403)", ask=says(answer(403))),
    Case("404 of another server", says(answer(404, HTML)), KEEPS, "(404)", ask=says(answer(404, HTML))),
    Case("429", says(answer(429, None, "Retry-After: 60\r\n")), KEEPS, "fewer texts (429)"),
    Case("no room, as a 400", says(fault(400, "SVC1000")), KEEPS, "no room for it (400)"),
]
TAKEN = [
    Case("taken, then 500", takes_and_says(answer(500)), "Sent", ""),
    Case("taken, then a page", takes_and_says(answer(200, HTML)), "Sent", ""),
    Case("taken, then cut off", takes_and_hangs_up, "Sent", ""),
    Case("taken, answer without a resource", takes_and_says(answer(201, {})), "Sent", ""),
    Case("taken, 302", takes_and_says(answer(302, None, "Location: http://127.0.0.1:1/\r\n")), "Sent", ""),
]
SILENCES = [
    Case("cut off", hangs_up, "Unsure", "no answer", paused=True),
    Case("reset", resets, "Unsure", "no answer", paused=True),
    Case("never an answer", stays_silent, "Unsure", "no answer", paused=True),
    Case("never an answer, asked neither", stays_silent, "Unsure", "in time", ask=stays_silent),
    Case("a header that trickles", trickles(b"HTTP/1.1 201 Created\r\n" + b"X: y\r\n" * 99), "Unsure", "", paused=True),
    Case("a body that trickles", trickles(answer(201, b" " * 500)), "Unsure", "no answer", paused=True),
    Case(
        "trickles when asked too",
        trickles(answer(201, b" " * 500)),
        "Unsure",
        "time",
        ask=trickles(b"HTTP/1.1 200 OK\r\n" + b"X: y\r\n" * 99),
    ),
    Case("400 MB", pours(400, b"HTTP/1.1 201 X\r\n\r\n"), "Unsure", "no answer", paused=True),
    Case("400 MB when asked", hangs_up, "Unsure", "", ask=pours(400, b"HTTP/1.1 200 X\r\n\r\n")),
    Case("half a body", says(answer(201, {"a": 1})[:-4]), "Unsure", "no answer", paused=True),
    Case("no HTTP", says(b"+OK ready\r\n"), "Unsure", "no answer", paused=True),
    Case("interim answers without end", says(b"HTTP/1.1 103 Early\r\n\r\n" * 500), "Unsure", "", paused=True),
    Case("a header of 1 MB", says(b"HTTP/1.1 201 X\r\nX: " + b"y" * 1_000_000), "Unsure", "no answer", paused=True),
    Case("nested JSON", says(answer(201, b"[" * 60_000)), "Unsure", "no answer", paused=True),
    Case("a lone surrogate", says(answer(201, b'{"a":"\\ud800"}')), "Unsure", "no answer", paused=True),
    Case("a page, everywhere", says(answer(200, HTML)), "Unsure", "understood", ask=says(answer(200, HTML))),
    Case("another's reference", names_another, "Unsure", "no answer", paused=True),
    Case("400 in HTML", says(answer(400, HTML)), "Unsure", "no answer", paused=True),
]
REFUSALS = [
    Case("a fault we do not know", says(fault(400, "SVC9999")), "Failed", "Words", paused=True),
    Case("a reason with a lone surrogate", says(fault(400, "SVC9\ud800")), "Failed", "Words", paused=True),
    Case("an unknown policy", says(fault(403, "POL0001", kind="policyException")), "Failed", "Words", paused=True),
]


_PATIENT = 20.0


@pytest.fixture
def carrier():
    made = FaultyCarrier()
    yield made
    made.close()


def sending(folder, carrier, rows=5, settles_after=30.0, within=TIME_OUT):
    world = World(folder, rows=rows, pace=PaceSettings(every=10, give_or_take=2))
    world.carrier = OmaMessagingLine(
        carrier.url, "Quay Office", within, settles_after, world.clock.now, remembers=7 * 86_400
    )
    world.start()
    return world


def said(world):
    return world.round().note or (world.sender.away.reason if world.sender.away else "")


@pytest.mark.parametrize("case", [*OUTAGES, *TAKEN, *SILENCES, *REFUSALS], ids=lambda case: case.name)
def test_what_becomes_of_row_and_round(tmp_path, carrier, case):
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    carrier.on_post, carrier.on_ask = case.post, case.ask
    # Only a silence has to be waited for: any other answer may take as long as a busy machine likes.
    answers = case in REFUSALS or (case in OUTAGES and "0" in case.said)
    world = sending(tmp_path, carrier, within=_PATIENT if answers else TIME_OUT)
    world.run(100)
    marks = world.marks()
    expected = {case.mark, "Sent"} if case.mark == "Sent" else {case.mark, "To go", "Failed"}
    assert marks[0] in expected
    if case in OUTAGES:
        assert set(marks) == {"To go"}
    elif case in SILENCES:
        assert "Sent" not in marks
        assert sum(mark != "To go" for mark in marks) <= 3
    elif case in REFUSALS:
        assert marks == ["Failed"] * 3 + ["To go"] * 2
    assert (world.round().stage == Stage.PAUSED) == case.paused
    assert case.said in said(world)
    assert carrier.poured < 40, "megabytes that one answer could pour before it was ended"
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - memory < 50_000
    # Well again: whatever is left goes, each text once.
    carrier.on_post = carrier.on_ask = None
    if case.name == "503 with a date":
        world.clock.passed += 90_000
    for _ in range(3):
        if world.round().stage == Stage.PAUSED:
            stage(world, Stage.SENDING)
        world.run(400)
        try_again(world)
    assert world.marks() == ["Sent"] * 5
    assert set(carrier.arrived.values()) == {1}
    assert len(carrier.arrived) == 5


@pytest.mark.parametrize("data", [b"", answer(500), answer(202, HTML)], ids=["cut off", "500", "202"])
def test_a_carrier_that_takes_it_after_all_is_never_handed_a_second_one(tmp_path, carrier, data):
    """It answered nothing of use, has no record when asked, and takes the text later: within the settling time."""
    carrier.on_post = takes_later(0.4, data)
    world = sending(tmp_path, carrier, rows=1)
    world.sender.act()
    assert world.marks()[0] in {"Unsure", "To go"}
    assert try_again(world) == 0
    carrier.on_post = None
    for timer in carrier._later:
        timer.join()
    world.run(200)
    assert world.marks() == ["Sent"]
    assert set(carrier.arrived.values()) == {1}
    assert carrier.posts == 1


def test_a_hundred_rows_through_an_outage_of_half_an_hour(tmp_path, carrier):
    """What burned 300 rows in 38 s: a general error, beyond retry, to every hand-over."""
    carrier.on_post = says(fault(500, "SVC0001"))
    world = sending(tmp_path, carrier, rows=100)
    world.run(1_800)
    assert set(world.marks()) == {"To go"}
    assert carrier.posts < 25
    carrier.on_post = None
    world.run(300)
    assert world.marks().count("Sent") >= 10
    assert set(world.marks()) == {"Sent", "To go"}
    gaps = [message.tries for message in world.messages()]
    assert max(gaps) <= carrier.posts
