"""A line is a way out: a sender name or number on a carrier."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Protocol

from gentle_ledger.core.pace.decide import next_look
from gentle_ledger.store.lines import LineFacts

A_DAY = 24 * 3600.0
"""Seconds for which a carrier is taken to remember references, unless it is known; common practice, no source."""


@dataclass(frozen=True, slots=True)
class Accepted:
    """The carrier took the text, under an id of its own."""

    carrier_id: str


@dataclass(frozen=True, slots=True)
class Refused:
    """The carrier answered that it does not take this text, so none was sent.

    `may_retry` tells whether a second try may succeed. `own` tells that the reason is surely the row's own, such as a
    number that is not in use; any other reason may be the carrier's or the line's, and the next row's as well. `code`
    is the carrier's own for it, or "".
    """

    reason: str
    may_retry: bool = False
    own: bool = False
    code: str = field(default="", compare=False)


@dataclass(frozen=True, slots=True)
class Unavailable:
    """What hindered the hand-over concerns the carrier or the line, not this row: the next row would fare no better.

    `wait` is how many seconds the carrier asks us to stay away, 0 when it names none. `perhaps_taken` tells that the
    request reached the carrier and may have been carried out all the same. `too_fast` tells that texts come faster
    than the carrier takes them.
    """

    reason: str
    wait: float = 0.0
    perhaps_taken: bool = False
    too_fast: bool = False


@dataclass(frozen=True, slots=True)
class NoRecord:
    """Asked about a reference, the carrier answered that it knows none such."""


@dataclass(frozen=True, slots=True)
class Silent:
    """No answer that says anything: the text may have gone or not."""

    reason: str


Outcome = Accepted | Refused | Unavailable | NoRecord | Silent


@dataclass(frozen=True, slots=True)
class Policy:
    """What may be asked of a line's carrier, and when its answers are proof.

    Attributes:
        settles_after: seconds after a hand-over from which on "no record" proves that the text was not taken.
        tells_repeats_apart: whether the carrier takes a text only once under one reference, however often it is handed
            over.
        can_be_asked: whether it can be asked at all what became of a hand-over. Without, "no record" never proves
            anything, and what may have gone stays unsure.
        next_look: seconds until it is asked again, or looked at again while it is away, after so many tries in a row,
            for a draw from -1 to 1.
        remembers: seconds for which its carrier remembers a reference: after that "no record" proves nothing.
        answers_within: seconds within which a call ends, whatever its carrier does.
    """

    settles_after: float = 60.0
    tells_repeats_apart: bool = False
    can_be_asked: bool = True
    next_look: Callable[[int, float], float] = next_look
    remembers: float = A_DAY
    answers_within: float = 10.0

    def as_json(self) -> dict[str, Any]:
        """What others may know of it, for the store."""
        return {
            "settles after": self.settles_after,
            "tells repeats apart": self.tells_repeats_apart,
            "can be asked": self.can_be_asked,
            "remembers": self.remembers,
        }


class Line(Protocol):
    """A way out. Neither call raises: whatever happens on the way is one of the answers."""

    @property
    def kind(self) -> str:
        """Which sort of line it is, by its key in the registry."""
        ...

    @property
    def name(self) -> str:
        """What the recipient sees as the sender."""
        ...

    @property
    def identity(self) -> str:
        """Which way out this is, carrier included: only the same one can be asked about its hand-overs."""
        ...

    @property
    def settings(self) -> Mapping[str, Any]:
        """What was set for it, as the model of its kind has it."""
        ...

    @property
    def policy(self) -> Policy:
        """What may be asked of its carrier, and when its answers are proof."""
        ...

    def hand_over(self, reference: str, number: str, text: str) -> Accepted | Refused | Unavailable | Silent:
        """Hands one text over, once, to an E.164 number, under a reference the carrier remembers."""
        ...

    def ask(self, reference: str) -> Outcome:
        """What became of the hand-over under this reference; sends nothing."""
        ...


def facts_of(line: Line) -> LineFacts:
    """What a line is, as the store keeps it."""
    return LineFacts(line.kind, line.name, line.identity, line.settings, line.policy.as_json())
