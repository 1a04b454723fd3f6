"""The stand-in carrier within the program: it answers as the one that ships does, and reaches nobody."""

import re
from collections.abc import Mapping
from types import MappingProxyType

from gentle_ledger.carrier.rules import Answer, rule_for
from gentle_ledger.sending.lines import Accepted, NoRecord, Outcome, Policy, Refused, Silent, Unavailable

_FICTION = re.compile(r"\+1\d{3}55501\d\d")
"""Numbers that are reserved for fiction: 555-0100 to 555-0199 of any area (North American Numbering Plan)."""
_OWN = {
    Answer.NOT_IN_USE: "the number is not in use",
    Answer.BLOCKED: "refused: the recipient has blocked this sender",
}
_BUSY_WAIT = 2.0


class StandInLine:
    """A line to the stand-in. Nobody can choose it for a round: it serves rehearsals.

    Numbers reserved for fiction get the answers of its table (`carrier.rules`). Every other number is taken: what a
    real carrier would say of it cannot be known beforehand.
    """

    kind = "stand-in"
    identity = "the stand-in carrier within the program"
    settings: Mapping[str, object] = MappingProxyType({})
    policy = Policy(60.0, tells_repeats_apart=True)

    def __init__(self, name: str) -> None:
        self.name = name
        self._known: dict[str, Accepted | Refused] = {}
        self._tried: set[str] = set()

    def hand_over(self, reference: str, number: str, text: str) -> Accepted | Refused | Unavailable | Silent:
        """See `Line`."""
        known = self._known.get(reference)
        if known is not None:
            return known
        answer = rule_for(number).answer if _FICTION.fullmatch(number) else Answer.ACCEPT
        first = number not in self._tried
        self._tried.add(number)
        if answer is Answer.BUSY and first:
            return Unavailable("the carrier was busy (503)", _BUSY_WAIT)
        if answer is Answer.ERROR_ONCE and first:
            return Refused("the carrier refused it: A service error occurred", may_retry=True)
        if answer is Answer.NO_ANSWER:
            return Silent("the carrier did not answer in time")
        taken: Accepted | Refused = Refused(_OWN[answer], own=True) if answer in _OWN else Accepted(reference)
        self._known[reference] = taken
        return Silent("the connection to the carrier broke off") if answer is Answer.ANSWER_LOST else taken

    def ask(self, reference: str) -> Outcome:
        """See `Line`."""
        return self._known.get(reference) or NoRecord()
