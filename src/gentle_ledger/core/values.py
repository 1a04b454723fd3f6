"""The roles a column can have."""

from dataclasses import dataclass
from enum import StrEnum


class Role(StrEnum):
    """What a column is for. It decides how a cell is read and how its value is written in a text."""

    MOBILE = "mobile number"
    NAME = "name"
    MONEY = "money"
    DATE = "date"
    NUMBER = "number"
    LINK = "link"
    REFERENCE = "reference"
    COUNTRY = "country"
    TEXT = "text"

    @property
    def doc(self) -> str:
        return _DOCS[self]

    @property
    def counts(self) -> bool:
        """True for the roles whose cells line up to the right."""
        return self in {Role.MONEY, Role.NUMBER}


_DOCS = {
    Role.MOBILE: "Where the text goes. One column of the sheet.",
    Role.NAME: "A person's or a boat's name, written as it stands.",
    Role.MONEY: "An amount in the round's currency, written with its sign and its digits.",
    Role.DATE: "A day, written in words a reader cannot mistake.",
    Role.NUMBER: "A count or a measure, written with the digits it has.",
    Role.LINK: "An address to open, written as it stands.",
    Role.REFERENCE: "A code, an account or a berth, written as it stands, zeros in front included.",
    Role.COUNTRY: "The country whose number the row's number is, by its name or code.",
    Role.TEXT: "Anything else, written as it stands.",
}


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
