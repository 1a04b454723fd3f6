"""Which answer a number gets: fixed rules by its last digits. `docs/carrier.md` shows the same table."""

from dataclasses import dataclass
from enum import StrEnum


class Answer(StrEnum):
    ACCEPT = "accepted"
    NOT_IN_USE = "number not in use"
    BLOCKED = "refused by recipient"
    BUSY = "busy the first time"
    NO_ANSWER = "no answer"
    ERROR_ONCE = "an error the first time"
    ANSWER_LOST = "accepted, but the answer is lost"


@dataclass(frozen=True, slots=True)
class Rule:
    """Numbers ending in `ending` get `answer`; `doc` says what happens."""

    ending: str
    answer: Answer
    doc: str


RULES: tuple[Rule, ...] = (
    Rule("90", Answer.NOT_IN_USE, "Answers 400 with service exception SVC0004; nothing is sent."),
    Rule("91", Answer.BLOCKED, "Answers 403 with policy exception POL1011; nothing is sent."),
    Rule(
        "92",
        Answer.BUSY,
        "Answers 503 with policy exception POL1010 and Retry-After 2 the first time; accepts after.",
    ),
    Rule("93", Answer.NO_ANSWER, "Never answers and keeps no record; nothing is sent."),
    Rule("94", Answer.ANSWER_LOST, "Accepts and sends the text, then drops the connection without an answer."),
    Rule("95", Answer.ERROR_ONCE, "Answers 400 with service exception SVC0001 the first time; accepts after."),
)
OTHERWISE = Rule("any other", Answer.ACCEPT, "Answers 201; the text arrives on the handset.")


def rule_for(number: str) -> Rule:
    return next((rule for rule in RULES if number.endswith(rule.ending)), OTHERWISE)
