"""A cell that its column cannot be read as, and how large a figure may be."""

from dataclasses import dataclass

MOST_AMOUNT_DIGITS = 15
"""Digits an amount may have in front of its decimal mark; more than any bill has, and written out exactly anywhere."""
MOST_NUMBER_DIGITS = 24
"""The same for any other number: CLDR's writing works at 28 digits, decimals included."""


def too_large(digits_in_front: int, *, money: bool) -> str:
    """Why a figure is beyond what is written, as part of a sentence; "" when it is not."""
    most = MOST_AMOUNT_DIGITS if money else MOST_NUMBER_DIGITS
    what = "an amount" if money else "a number"
    return f"is too large: {what} has at most {most} digits in front of its decimals" if digits_in_front > most else ""


@dataclass(frozen=True, slots=True)
class Unreadable:
    """A cell that its column's role cannot read; `why` is part of a sentence: "'oops' is not an amount".

    `typed` and `wanted` are its two halves, "oops" and "an amount", where it has these; "" where it has not. `asks` is
    True where it waits for an answer to how its column is read.
    """

    why: str
    typed: str = ""
    wanted: str = ""
    asks: bool = False
