"""What a format is, and how it is read from its words: "money USD", "number 2", "date d MMM yyyy"."""

import re
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from gentle_ledger.core.cells.locales import known_currency
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.formulas.values import Wrong
from gentle_ledger.core.recipe.day_patterns import OtherMeaning, day_by_pattern


class FormatKind(StrEnum):
    """What a format makes of a value."""

    MONEY = "money"
    NUMBER = "number"
    PERCENT = "percent"
    DATE = "date"
    TEXT = "text"

    @property
    def doc(self) -> str:
        """What it makes of a value, as the clerk reads it."""
        return _DOCS[self]

    @property
    def role(self) -> Role:
        """The role of a computed column with this format."""
        return _ROLES[self]


_DOCS = {
    FormatKind.MONEY: "The round's currency, or another: money USD",
    FormatKind.NUMBER: "The digits it has, or so many decimals: number 2",
    FormatKind.PERCENT: "0.015 as 1.5%, or so many decimals: percent 2",
    FormatKind.DATE: "date short, medium, long or weekday, or a pattern: date d MMM yyyy",
    FormatKind.TEXT: "As it stands, or in another case: text upper, lower or title",
}
_ROLES = {
    FormatKind.MONEY: Role.MONEY,
    FormatKind.NUMBER: Role.NUMBER,
    FormatKind.PERCENT: Role.NUMBER,
    FormatKind.DATE: Role.DATE,
    FormatKind.TEXT: Role.TEXT,
}
LENGTHS = ("short", "medium", "long")
_TITLE_WORD = re.compile(r"[^\W_]+(?:['\u2019][^\W_]+)*")
_LONGEST_PREFIX = 2
"""Letters in front of an apostrophe that a name can begin with: O'Neil, D'Arcy, and not Mary's."""


def in_title_case(text: str) -> str:
    """The first letter of each word in capitals, the others small: Mary's, O'Neil, 2nd, Jean-Luc."""
    return _TITLE_WORD.sub(lambda word: _in_title_case(word[0]), text)


def _in_title_case(word: str) -> str:
    first, *more = re.split("(['\u2019])", word.lower())
    begins = len(first) <= _LONGEST_PREFIX
    found = [first[0].upper() + first[1:]]
    for piece in more:
        found.append(piece[0].upper() + piece[1:] if begins and len(piece) > _LONGEST_PREFIX else piece)
    return "".join(found)


CASES = {"upper": str.upper, "lower": str.lower, "title": in_title_case}


@dataclass(frozen=True, slots=True)
class Format:
    """A way of writing with its detail: ("money", "USD"), ("date", "d MMM yyyy"), ("number", "2"); "" is the usual.

    One that is not `strict` is only for figures: any other value is written by its type.
    """

    kind: FormatKind
    detail: str = ""
    strict: bool = True

    def __str__(self) -> str:
        return f"{self.kind} {self.detail}".strip()


def format_from(text: str) -> Format:
    """Reads "money", "money USD", "number 2", "percent 1", "date long", "date d MMM yyyy" or "text upper".

    Raises ValueError with a sentence for anything else.
    """
    word, _, rest = text.strip().partition(" ")
    detail = rest.strip()
    if word.casefold() not in set(FormatKind):
        raise ValueError(f'"{clipped(text)}" is not a format; there are {", ".join(FormatKind)}')
    way = FormatKind(word.casefold())
    plain_detail = detail.casefold()
    if way is FormatKind.MONEY and detail and not known_currency(detail.upper()):
        raise ValueError(f'"{clipped(detail)}" is not an ISO 4217 currency code such as CAD')
    if way in {FormatKind.NUMBER, FormatKind.PERCENT} and detail and not re.fullmatch(r"\d|1\d|20", detail):
        raise ValueError(f'"{clipped(detail)}" is not a number of decimals from 0 to 20')
    if way is FormatKind.DATE and detail and plain_detail not in {*LENGTHS, "weekday"}:
        try:
            day_by_pattern(date(2026, 11, 30), detail, "en-CA")
        except (Wrong, ValueError, KeyError, AttributeError) as fault:
            why = f": {fault}" if isinstance(fault, (Wrong, OtherMeaning)) else ""
            said = f'"{clipped(detail)}" is not short, medium, long, weekday or a pattern such as d MMM yyyy'
            raise ValueError(said + why) from fault
    if way is FormatKind.TEXT and detail and plain_detail not in CASES:
        raise ValueError(f'"{clipped(detail)}" is not upper, lower or title')
    named = way is FormatKind.TEXT or (way is FormatKind.DATE and plain_detail in {*LENGTHS, "weekday"})
    return Format(way, detail.upper() if way is FormatKind.MONEY else plain_detail if named else detail)


def usual_format(role: Role) -> Format | None:
    """How a role writes its values when no format is set; None writes each by its type."""
    return {
        Role.MONEY: Format(FormatKind.MONEY),
        Role.NUMBER: Format(FormatKind.NUMBER),
        Role.DATE: Format(FormatKind.DATE),
    }.get(role)
