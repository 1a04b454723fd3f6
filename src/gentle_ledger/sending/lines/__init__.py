"""A line is a way out: a sender name or number on a carrier."""

from dataclasses import dataclass, field
from typing import Protocol


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
    request reached the carrier and may have been carried out all the same.
    """

    reason: str
    wait: float = 0.0
    perhaps_taken: bool = False


@dataclass(frozen=True, slots=True)
class NoRecord:
    """Asked about a reference, the carrier answered that it knows none such."""


@dataclass(frozen=True, slots=True)
class Silent:
    """No answer that says anything: the text may have gone or not."""

    reason: str


Outcome = Accepted | Refused | Unavailable | NoRecord | Silent


class Line(Protocol):
    """A way out. Neither call raises: whatever happens on the way is one of the answers."""

    @property
    def name(self) -> str:
        """What the recipient sees as the sender."""
        ...

    @property
    def identity(self) -> str:
        """Which way out this is, carrier included: only the same one can be asked about its hand-overs."""
        ...

    @property
    def settles_after(self) -> float:
        """Seconds after a hand-over from which on "no record" proves that the carrier did not take the text."""
        ...

    @property
    def tells_repeats_apart(self) -> bool:
        """True when the carrier takes a text only once under one reference, however often it is handed over."""
        ...

    def hand_over(self, reference: str, number: str, text: str) -> Accepted | Refused | Unavailable | Silent:
        """Hands one text over, once, to an E.164 number, under a reference the carrier remembers."""
        ...

    def ask(self, reference: str) -> Outcome:
        """What became of the hand-over under this reference; sends nothing."""
        ...
