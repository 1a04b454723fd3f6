"""The tally: strokes, sentences, and the stream that carries it."""

import json
from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.web.sending.view import sentence_of
from gentle_ledger.web.strokes import MOST_STROKES, strokes_of
from tests.sending.world import Unavailable
from tests.servers import harbour, until
from tests.web.office import Office

T, G, S, F, U = Mark.TO_GO, Mark.GOING, Mark.SENT, Mark.FAILED, Mark.UNSURE

STROKES = [
    ([], "", 1),
    ([S, S, F, U, G, T], "ssfugt", 1),
    ([S] * 600, "s" * 600, 1),
    ([S] * 601, "s" * 301, 2),
    ([S, F, S, S, S, T] + [T] * 595, "fsg" + "t" * 298, 2),
    ([U, S] + [S] * 599, "u" + "s" * 300, 2),
]


@pytest.mark.parametrize(("marks", "strokes", "each"), STROKES)
def test_strokes(marks, strokes, each):
    assert strokes_of(marks) == (strokes, each)


@given(st.lists(st.sampled_from([T, G, S, F, U]), max_size=2_000))
def test_no_failed_row_hides_in_a_stroke(marks):
    strokes, each = strokes_of(marks)
    assert len(strokes) <= MOST_STROKES
    assert len(strokes) == -(-len(marks) // each)
    for i, letter in enumerate(strokes):
        here = marks[i * each : (i + 1) * each]
        assert (letter == "f") == (F in here)
        assert (letter == "s") == (set(here) == {S})


SENTENCES = [
    (Stage.FINISHED, {S: 5}, "All 5 texts sent."),
    (Stage.FINISHED, {S: 1}, "The one text is sent."),
    (Stage.FINISHED, {S: 122, F: 4, Mark.HELD: 3}, "122 of 126 texts sent, 4 failed. 3 held, not sent."),
    (Stage.FINISHED, {S: 1, F: 1, U: 1}, "1 of 3 texts sent, 1 failed and 1 unsure."),
    (Stage.FINISHED, {F: 2}, "0 of 2 texts sent, 2 failed."),
    (Stage.FINISHED, {S: 2, Mark.LEFT_OUT: 1}, "All 2 texts sent. 1 left out, not sent."),
    (Stage.STOPPED, {S: 4, "stopped": 12}, "4 of 16 texts sent, 12 stopped."),
    (
        Stage.STOPPED,
        {S: 4, F: 1, U: 1, "stopped": 12, Mark.LEFT_OUT: 2, Mark.HELD: 1},
        "4 of 18 texts sent, 1 failed, 1 unsure and 12 stopped. 1 held and 2 left out, not sent.",
    ),
    (Stage.STOPPED, {"stopped": 4}, "Stopped before any of 4 texts was sent."),
    (Stage.STOPPED, {"stopped": 1}, "Stopped before it was sent."),
    (Stage.SENDING, {S: 2, T: 3, G: 1}, "4 texts still to go."),
    (Stage.PAUSED, {T: 1}, "1 text still to go."),
]


@pytest.mark.parametrize(("stage", "counts", "sentence"), SENTENCES)
def test_what_happened_in_one_sentence(stage, counts, sentence):
    """`stopped` are those of the left out rows that Stop kept back."""
    stopped = counts.get("stopped", 0)
    texts = {mark: n for mark, n in counts.items() if mark != "stopped"}
    texts[Mark.LEFT_OUT] = texts.get(Mark.LEFT_OUT, 0) + stopped
    assert sentence_of(stage, texts, stopped) == sentence


def pictures(lines):
    """The tallies in a server-sent event stream (WHATWG HTML, 9.2)."""
    for line in lines:
        if line.startswith("data:"):
            yield json.loads(line[5:])


def test_the_stream_is_right_from_its_first_event_on(tmp_path):
    """Each event is a whole picture, so one who comes late, or again, needs nothing that went before."""
    with (
        harbour(tmp_path) as office,
        office.client() as http,
    ):
        sheet = "Name,Mobile\nInes,902-555-0101\nBo,902-555-0190\nAl,902-555-0103\n"
        number = http.post("/api/rounds", files={"file": ("a.csv", sheet)}).json()["id"]
        path = f"/api/rounds/{number}"
        http.put(f"{path}/wording", json={"wording": "Hello {Name}", "row": 1})
        http.patch(path, json={"pace": {"every": 0.3, "give_or_take": 0}})
        http.post(f"{path}/start", json={"seal": http.get(f"{path}/confirmation").json()["seal"]})
        with http.stream("GET", f"{path}/events") as stream:
            first = next(pictures(stream.iter_lines()))
        with http.stream("GET", f"{path}/events") as stream:
            seen = []
            for picture in pictures(stream.iter_lines()):
                seen.append(picture)
                if picture["stage"] == "finished":
                    break
        assert sum(count["rows"] for count in first["counts"]) == 3
        assert seen[-1]["strokes"] == "sfs"
        assert seen[-1]["failures"] == [{"reason": "the number is not in use", "texts": 1, "may_retry": False}]
        done = [sum(letter in "sfu" for letter in picture["strokes"]) for picture in seen]
        assert done == sorted(done)


def test_how_long_until_the_next_text_is_told_from_the_store(tmp_path):
    """The sender may be another process: what it keeps of its line is all that the page knows of it."""
    office = Office(tmp_path)
    number = office.started()
    office.call("PATCH", f"/api/rounds/{number}", json={"pace": {"every": 10, "give_or_take": 0}})
    tally = lambda: office.call("GET", f"/api/rounds/{number}/tally")  # noqa: E731
    assert (tally()["next_in_ms"], tally()["sender"]) == (0, "nowhere")
    assert office.loop.take_turn()
    office.sender.act()
    assert tally()["sender"] == "there"
    seen = []
    for passed in (0, 3, 6.5, 0.5, 2):
        office.clock.passed += passed
        seen.append(tally()["next_in_ms"])
    assert seen == [10_000, 7_000, 500, 0, 0]
    last = datetime.fromisoformat(tally()["last_leaves_at"])
    assert last == office.clock.now(), "one text is left, and it may leave now"
    office.carrier.answers["+19025550111"] = [Unavailable("busy", 60)]
    office.sender.act()
    office.clock.passed += 20
    away = tally()["away"]
    assert (away["reason"], away["looks_in_ms"], tally()["next_in_ms"]) == ("busy", 40_000, 40_000)
    office.loop.release_turn()
    assert tally()["sender"] == "nowhere"
    office.app.state.context.database.close()


def test_the_sender_may_be_a_process_of_its_own_and_is_told_in_the_store_alone(tmp_path):
    with (
        harbour(tmp_path) as office,
        office.client() as http,
        office.apart() as sender,
    ):
        rows = "".join(f"P{i},902-555-01{i:02}\n" for i in range(4))
        number = http.post("/api/rounds", files={"file": ("a.csv", f"Name,Mobile\n{rows}")}).json()["id"]
        path = f"/api/rounds/{number}"
        http.put(f"{path}/wording", json={"wording": "Hello {Name}", "row": 1})
        http.patch(path, json={"pace": {"every": 0.5, "give_or_take": 0}})
        tally = lambda: http.get(f"{path}/tally").json()  # noqa: E731
        until(lambda: tally()["sender"] == "there", "a sender beside the page")
        http.post(f"{path}/start", json={"seal": http.get(f"{path}/confirmation").json()["seal"]})
        until(office.arrived, "the first text")
        assert http.post(f"{path}/pause").json()["stage"] == "paused"
        until(lambda: "g" not in tally()["strokes"], "the last hand-over's mark")
        there = len(office.arrived())
        assert there < 4
        sender.terminate()
        assert sender.wait(20) == 0
        http.post(f"{path}/go-on")
        assert (tally()["sender"], tally()["stage"]) == ("nowhere", "sending")
        assert len(office.arrived()) == there
