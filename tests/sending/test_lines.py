"""The contract every line keeps, run over a real network against the stand-in carrier."""

import pytest

from gentle_ledger.carrier.records import Records
from gentle_ledger.carrier.rules import OTHERWISE, RULES, Answer
from gentle_ledger.sending.lines import Accepted, NoRecord, Refused, Silent, Unavailable
from gentle_ledger.sending.lines.oma_messaging import OmaMessagingLine
from tests.servers import Process, free_port


@pytest.fixture(scope="module")
def carrier(tmp_path_factory):
    folder = tmp_path_factory.mktemp("carrier")
    port = free_port()
    command = ["carrier", "--port", str(port), "--data", str(folder / "c.sqlite3"), "--hang", "3"]
    process = Process(*command, url=f"http://127.0.0.1:{port}").answering()
    records = Records(folder / "c.sqlite3")
    yield process, records
    records.close()
    process.end()


@pytest.fixture(scope="module")
def line(carrier):
    return OmaMessagingLine(f"{carrier[0].url}/messaging/v1", "Quay Office", timeout=0.6)


@pytest.fixture
def number():
    return lambda ending, area="902": f"+1{area}55501{ending}"


@pytest.fixture
def count(carrier):
    return lambda number: sum(r.number == number for r in carrier[1].arrived())


class LineContract:
    """What the sender relies on. `line` is the line; `ending` a number with that answer; `count` what arrived."""

    def test_accepts_and_remembers(self, line, number, count):
        outcome = line.hand_over("r-accept", number("05"), "Hello Ines, €5")
        assert isinstance(outcome, Accepted)
        assert line.ask("r-accept") == outcome
        assert count(number("05")) == 1

    def test_the_same_reference_again_sends_nothing_new(self, line, number, count):
        first = line.hand_over("r-same", number("06"), "Hello")
        assert line.hand_over("r-same", number("06"), "Hello") == first
        assert count(number("06")) == 1

    def test_refusals_say_why_and_are_remembered(self, line, number, count):
        for ending, reason in (("90", "not in use"), ("91", "blocked")):
            outcome = line.hand_over(f"r-{ending}", number(ending), "Hello")
            assert isinstance(outcome, Refused)
            assert reason in outcome.reason
            assert (outcome.own, outcome.may_retry) == (True, False)
            assert isinstance(line.ask(f"r-{ending}"), Refused)
            assert count(number(ending)) == 0

    def test_busy_asks_for_a_wait_and_accepts_a_second_time(self, line, number, count):
        first = line.hand_over("r-busy", number("92", "506"), "Hello")
        assert isinstance(first, Unavailable)
        assert (first.wait, first.perhaps_taken) == (2, False)
        assert line.ask("r-busy") == NoRecord()
        assert isinstance(line.hand_over("r-busy", number("92", "506"), "Hello"), Accepted)
        assert count(number("92", "506")) == 1

    def test_no_answer_is_silence_and_leaves_no_record(self, line, number, count):
        assert isinstance(line.hand_over("r-none", number("93"), "Hello"), Silent)
        assert line.ask("r-none") == NoRecord()
        assert count(number("93")) == 0

    def test_a_lost_answer_is_silence_and_the_record_tells(self, line, number, count):
        assert isinstance(line.hand_over("r-lost", number("94"), "Hello"), Silent)
        assert isinstance(line.ask("r-lost"), Accepted)
        assert count(number("94")) == 1

    def test_an_unknown_reference_has_no_record(self, line):
        assert line.ask("r-never") == NoRecord()


class TestOmaMessagingLine(LineContract):
    def test_a_carrier_that_is_not_there_took_nothing(self):
        line = OmaMessagingLine(f"http://127.0.0.1:{free_port()}/messaging/v1", "Quay Office", timeout=0.5)
        outcome = line.hand_over("r", "+19025550105", "Hello")
        assert isinstance(outcome, Unavailable)
        assert not outcome.perhaps_taken
        assert isinstance(line.ask("r"), Unavailable)


def test_the_docs_have_the_same_table():
    from pathlib import Path

    words = (Path(__file__).parents[2] / "docs" / "carrier.md").read_text("utf-8")
    for rule in (*RULES, OTHERWISE):
        assert f"| {rule.ending} | {rule.answer} | {rule.doc} |" in words
    assert {rule.answer for rule in (*RULES, OTHERWISE)} == set(Answer)
