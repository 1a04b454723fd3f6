"""A cell that its column cannot be read as, and how large a figure may be."""

from dataclasses import dataclass

from gentle_ledger.core.cells.reasons import Reason

MOST_AMOUNT_DIGITS = 15
"""Digits an amount may have in front of its decimal mark; more than any bill has, and written out exactly anywhere."""
MOST_NUMBER_DIGITS = 24
"""The same for any other number: CLDR's writing works at 28 digits, decimals included."""


def too_large(digits_in_front: int, *, money: bool) -> bool:
    """Whether a figure is beyond what is written."""
    return digits_in_front > (MOST_AMOUNT_DIGITS if money else MOST_NUMBER_DIGITS)


def said_too_large(typed: str, money: bool) -> str:
    """That a figure is, as part of a sentence."""
    most, what = (MOST_AMOUNT_DIGITS, "an amount") if money else (MOST_NUMBER_DIGITS, "a number")
    return f"{typed} is too large: {what} has at most {most} digits in front of its decimals"


@dataclass(frozen=True, slots=True)
class Unreadable:
    """A cell that its column's role cannot read.

    Attributes:
        reason: why, such as "'oops' is not an amount".
        typed, wanted: the two halves of that, "oops" and "an amount", where it has these; "" where it has not.
        asks: whether it waits for an answer to how its column is read.
    """

    reason: Reason
    typed: str = ""
    wanted: str = ""
    asks: bool = False

    @property
    def why(self) -> str:
        """The reason as part of a sentence."""
        return self.reason.sentence
