"""A line is a way out: a sender name or number on a carrier."""

from dataclasses import dataclass
from typing import Protocol


@dataclass(frozen=True, slots=True)
class Accepted:
    """The carrier took the text, under an id of its own."""

    carrier_id: str


@dataclass(frozen=True, slots=True)
class Refused:
    """The carrier answered that it did not take the text, so none was sent.

    `may_retry` tells whether a second try may succeed; `wait` is how many seconds the carrier asks us to stay away;
    `line_down` tells that the carrier could not be reached at all, so that the next row would fare no better.
    """

    reason: str
    may_retry: bool = False
    wait: float = 0.0
    line_down: bool = False


@dataclass(frozen=True, slots=True)
class NoRecord:
    """Asked about a reference, the carrier answered that it knows none such."""


@dataclass(frozen=True, slots=True)
class Silent:
    """No answer that says anything: the text may have gone or not."""

    reason: str


class Line(Protocol):
    """A way out. Neither call raises: whatever happens on the way is one of the answers."""

    @property
    def name(self) -> str:
        """What the recipient sees as the sender."""
        ...

    def hand_over(self, reference: str, number: str, text: str) -> Accepted | Refused | Silent:
        """Hands one text over, once, to an E.164 number, under a reference the carrier remembers."""
        ...

    def ask(self, reference: str) -> Accepted | Refused | NoRecord | Silent:
        """What became of the hand-over under this reference; sends nothing."""
        ...
