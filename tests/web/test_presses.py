"""What the clerk presses while a text is in hand, and what the carrier answers then: every pair ends in a true mark.

A text that arrived is Sent, one that did not is not; none arrives twice; and for whatever did not go there is a way on.
"""

import itertools
from collections import Counter

import pytest

from gentle_ledger.sending.lines import Refused, Silent, Unavailable
from tests.sending.world import Crash
from tests.web.office import Office

ANSWERS = {
    "taken": None,
    "refused for good": Refused("not in use", own=True),
    "refused for now": Refused("an error", may_retry=True),
    "busy": Unavailable("503", 2.0),
    "500, not taken": Unavailable("500", perhaps_taken=True),
    "500, but taken": "taken, but 500",
    "silent, not taken": Silent("no answer"),
    "silent, but taken": "lost",
    "the sender dies": Crash(),
}
PRESSES = ("pause", "stop", "pause and go on", "stop and take up", "no more")
MOMENTS = ("before the call", "in the call", "after the call")
PAIRS = [("nothing", "in the call"), ("take back", "in the call"), *itertools.product(PRESSES, MOMENTS)]


class Hands:
    """Somebody at the page of a round of three texts, of which the first is in hand."""

    def __init__(self, office, case):
        self.office = office
        self.numbers = [f"+1{area}55501{case % 100:02}" for area in (902, 506, 782 if case < 100 else 709)]
        if case >= 100:
            self.numbers = [f"+1{area}55501{case % 100:02}" for area in (416 + case // 100, 604 + case // 100, 250)]
        self.title = f"Case {case}"
        rows = "".join(f"P{i},{number}\n" for i, number in enumerate(self.numbers))
        self.path = f"/api/rounds/{office.bring(f'Name,Mobile{chr(10)}{rows}')}"
        office.call("PUT", f"{self.path}/wording", json={"wording": f"{self.title}: hello {{Name}}", "row": 1})
        setup = {"pace": {"every": 0.1, "give_or_take": 0}, "repeat_days": 0, "checks": {"same number": "look"}}
        office.call("PATCH", self.path, json=setup)
        seal = office.call("GET", f"{self.path}/confirmation")["seal"]
        office.call("POST", f"{self.path}/start", json={"seal": seal})

    def press(self, press):
        for each in press.split(" and "):
            getattr(self, each.replace(" ", "_"))()

    def nothing(self):
        pass

    def pause(self):
        self.office.call("POST", f"{self.path}/pause")

    def stop(self):
        self.office.call("POST", f"{self.path}/stop")

    def take_back(self):
        self.office.call("POST", f"{self.path}/take-back", 409)

    def go_on(self):
        self.office.call("POST", f"{self.path}/go-on")

    def take_up(self):
        if n := self.tally()["may_take_up"]:
            self.office.again(self.path, which="stopped", texts=n)

    def no_more(self):
        body = {"number": self.numbers[0], "on": "2026-11-24", "how": "said so"}
        self.office.call("POST", "/api/no-more-texts", 201, json=body)

    def tally(self):
        return self.office.call("GET", f"{self.path}/tally")

    def marks(self):
        rows = self.office.call("GET", f"{self.path}/rows")["rows"]
        return [row["mark"] for row in rows]

    def arrived(self):
        texts = Counter(number for number, text in self.office.carrier.arrived if text.startswith(f"{self.title}:"))
        return [texts[number] for number in self.numbers]


def play(office, hands, press, answer, moment):
    """Hands the first text over, has something pressed at a moment, and lets the rest follow."""
    carrier, sender, pressed = office.carrier, office.sender, []
    hand_over, ask, tell = carrier.hand_over, carrier.ask, sender._texts._tell

    def once():
        if not pressed:
            pressed.append(True)
            hands.press(press)

    def told():
        if moment == "before the call":
            once()

    def handing_over(reference, number, text):
        if moment == "in the call":
            once()
        answered = hand_over(reference, number, text)
        if isinstance(answer, Crash) and len(pressed) < 2:
            pressed.append("died")
            raise answer
        return answered

    def asked(reference):
        if moment == "after the call":
            once()
        return ask(reference)

    if answer is not None and not isinstance(answer, Crash):
        carrier.answers[hands.numbers[0]] = [answer]
    carrier.hand_over, carrier.ask, sender._texts._tell = handing_over, asked, told
    try:
        sender.act()
    except Crash:
        sender.begin()
    finally:
        carrier.hand_over, carrier.ask, sender._texts._tell = hand_over, ask, tell
    if not pressed:
        once()
    come_to_rest(office, hands, 40)


def come_to_rest(office, hands, times):
    """Rests so often, or until every row has a mark that nothing more comes of by itself."""
    for _ in range(times):
        rest(office)
        if set(hands.marks()) <= {"Sent", "Failed", "Left out"}:
            break


def rest(office):
    """A while of the sender, until it waits."""
    for _ in range(30):
        if office.sender.act() is None:
            break
        office.clock.passed += 0.7
    office.clock.passed += 10


def settled(hands, marks, arrived):
    """Whether what the sheet says is true; the round is at rest."""
    stage = hands.tally()["stage"]
    assert all(n <= 1 for n in arrived), arrived
    for mark, n in zip(marks, arrived, strict=True):
        assert (mark == "Sent") == (n == 1), (stage, marks, arrived)
        assert mark not in {"Going", "Unsure"}, (stage, marks)
        assert mark != "To go" or stage == "paused", (stage, marks)


@pytest.fixture(scope="module")
def office(tmp_path_factory):
    return Office(tmp_path_factory.mktemp("presses"))


@pytest.mark.parametrize("answer", ANSWERS)
def test_every_press_at_every_moment_ends_in_a_true_mark_and_a_way_on(office, answer):
    for press, moment in itertools.product(PRESSES, MOMENTS):
        case = (
            list(ANSWERS).index(answer) * len(PRESSES) * len(MOMENTS) + PRESSES.index(press) * 3 + MOMENTS.index(moment)
        )
        hands = Hands(office, case)
        play(office, hands, press, ANSWERS[answer], moment)
        marks = hands.marks()
        settled(hands, marks, hands.arrived())
        # The way on: what the page offers until nothing is left.
        for _ in range(3):
            tally = hands.tally()
            if tally["stage"] == "paused":
                hands.go_on()
            elif tally["may_try_again"]:
                office.again(hands.path, which="failed", texts=tally["may_try_again"])
            elif tally["may_take_up"]:
                office.again(hands.path, which="stopped", texts=tally["may_take_up"])
            else:
                break
            come_to_rest(office, hands, 12)
        ended = hands.marks()
        settled(hands, ended, hands.arrived())
        assert ended[1:] == ["Sent", "Sent"], (press, moment, ended)
        if answer == "refused for good":
            assert ended[0] == "Failed"
        elif press != "no more":
            assert ended[0] == "Sent", (press, moment, marks, ended)
