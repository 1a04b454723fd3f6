"""The roles a column can have."""

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
        """What the role is for, as the clerk reads it."""
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
