"""All numbers of a round in one view: what was typed, what it was read as, and what is wrong, in batches."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import phonenumbers
from phonenumbers import PhoneNumberFormat, PhoneNumberType
from phonenumbers.timezone import time_zones_for_number

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.phones import EXTENSION, TWO_IN_ONE, TWO_NUMBERS, Number, country_name, without_extension
from gentle_ledger.core.cells.words import count

_KINDS = {
    PhoneNumberType.MOBILE: "mobile",
    PhoneNumberType.FIXED_LINE: "landline",
    PhoneNumberType.FIXED_LINE_OR_MOBILE: "landline or mobile",
    PhoneNumberType.TOLL_FREE: "toll-free",
    PhoneNumberType.PREMIUM_RATE: "premium rate",
    PhoneNumberType.VOIP: "internet telephone",
    PhoneNumberType.PERSONAL_NUMBER: "personal number",
    PhoneNumberType.PAGER: "pager",
    PhoneNumberType.UAN: "company's access number",
    PhoneNumberType.SHARED_COST: "shared cost",
    PhoneNumberType.VOICEMAIL: "voicemail",
}


@dataclass(frozen=True, slots=True)
class Details:
    """What is known of a number besides its digits; all "" for one that could not be read.

    Attributes:
        country: ISO 3166-1 of the country it belongs to.
        kind: what sort of line it is, in plain words.
        zones: the time zones it may be in, by their names in the IANA database.
    """

    country: str = ""
    kind: str = ""
    zones: tuple[str, ...] = ()


@lru_cache(maxsize=65_536)
def details_of(e164: str) -> Details:
    """Country, kind and time zones of a number in E.164, by the ITU's plans as `phonenumbers` knows them."""
    if not e164:
        return Details()
    number = phonenumbers.parse(e164, None)
    zones = tuple(zone for zone in time_zones_for_number(number) if zone != "Etc/Unknown")
    kind = _KINDS.get(phonenumbers.number_type(number), "")
    return Details(phonenumbers.region_code_for_number(number) or "", kind, zones)


class Action(StrEnum):
    """What can be done to all numbers of a batch at once."""

    READ_AS = "read as"
    FIRST = "first"
    SECOND = "second"
    NO_EXTENSION = "no extension"
    LEAVE_OUT = "leave out"

    @property
    def label(self) -> str:
        """What the button says."""
        return _LABELS[self]


_LABELS = {
    Action.READ_AS: "Read them as numbers of another country",
    Action.FIRST: "Take the first number of each",
    Action.SECOND: "Take the second number of each",
    Action.NO_EXTENSION: "Take the extensions off",
    Action.LEAVE_OUT: "Leave these rows out",
}


_MENDS = {
    TWO_IN_ONE.code: (Action.FIRST, Action.SECOND, Action.LEAVE_OUT),
    EXTENSION.code: (Action.NO_EXTENSION, Action.LEAVE_OUT),
}
"""What can be done to numbers besides leaving their rows out, by what is wrong with them."""


@dataclass(frozen=True, slots=True)
class Batch:
    """Numbers of which the same is to be said. `key` stays the same as long as the batch does; rows count from 0."""

    key: str
    sentence: str
    rows: tuple[int, ...]
    wrong: bool
    actions: tuple[Action, ...]


def batches_of(cells: Sequence[Cell], numbers: Sequence[Number], rows: Sequence[int], region: str) -> list[Batch]:
    """The batches that the rows fall into, what is wrong first; a row may be in two of them.

    Args:
        cells: the column as typed, one a row.
        numbers: what they were read as.
        rows: the rows that are looked at, from 0.
        region: the country that numbers without their code were read as.
    """
    wrong: dict[tuple[str, str], list[int]] = {}
    without_code: list[int] = []
    foreign: dict[str, list[int]] = {}
    same: dict[str, list[int]] = {}
    home = f"+{phonenumbers.country_code_for_region(region)}"
    for row in rows:
        number = numbers[row]
        if number.problem:
            wrong.setdefault((number.problem.code, number.problem.heading), []).append(row)
        elif not number.e164.startswith(home):
            foreign.setdefault(country_name(details_of(number.e164).country), []).append(row)
        elif not _has_code(cells[row], home):
            without_code.append(row)
        if number.e164:
            same.setdefault(number.e164, []).append(row)
    found = [
        Batch(f"wrong: {heading}", f"{len(mine):,} {_verb(len(mine))}: {heading}", tuple(mine), True, _actions(code))
        for (code, heading), mine in sorted(wrong.items(), key=lambda item: -len(item[1]))
    ]
    doubles = tuple(row for mine in same.values() if len(mine) > 1 for row in mine)
    if doubles:
        found.append(Batch("same", f"{len(doubles):,} are the same as another row", doubles, False, ()))
    if without_code:
        said = f"{count(len(without_code), 'has', 'have')} no country code: read as {country_name(region)}"
        found.append(Batch("no code", said, tuple(without_code), False, (Action.READ_AS,)))
    for country, mine in foreign.items():
        found.append(
            Batch(f"country: {country}", f"{count(len(mine), 'is', 'are')} from {country}", tuple(mine), False, ())
        )
    return found


def _verb(n: int) -> str:
    return "cannot take a text" if n == 1 else "cannot take texts"


def _has_code(cell: Cell, home: str) -> bool:
    digits = re.sub(r"[^\d+]", "", as_written(cell))
    return digits.startswith("+") or (home == "+1" and len(digits) == 11 and digits.startswith("1"))


def _actions(code: str) -> tuple[Action, ...]:
    return _MENDS.get(code, (Action.LEAVE_OUT,))


def _read_as(typed: str, country: str) -> str:
    try:
        number = phonenumbers.parse(typed, country)
    except phonenumbers.NumberParseException:
        return typed
    return str(phonenumbers.format_number(number, PhoneNumberFormat.E164))


def _part(place: int) -> Callable[[str, str], str]:
    def part(typed: str, _country: str) -> str:
        match = TWO_NUMBERS.fullmatch(typed.strip())
        return match[place].strip() if match else typed

    return part


_WORK: Mapping[Action, Callable[[str, str], str]] = {
    Action.READ_AS: _read_as,
    Action.FIRST: _part(1),
    Action.SECOND: _part(2),
    Action.NO_EXTENSION: lambda typed, _country: without_extension(typed),
}


def mended(cells: Sequence[Cell], rows: Sequence[int], action: Action, country: str) -> dict[int, str]:
    """What becomes of the cells of some rows; those that the action changes nothing in are not among them.

    Args:
        cells: the column, one cell a row.
        rows: the rows to be mended, from 0.
        action: what is done; not LEAVE_OUT, which is done to rows and not to their cells.
        country: ISO 3166-1, for READ_AS.
    """
    work = _WORK[action]
    found = {}
    for row in rows:
        typed = as_written(cells[row])
        new = typed if is_blank(cells[row]) else work(typed, country)
        if new != typed:
            found[row] = new
    return found
