"""A pattern by which a day is written: a spreadsheet's letters, or those of CLDR."""

import re
from datetime import date, datetime, time
from functools import lru_cache

from babel.dates import format_datetime

from gentle_ledger.core.formulas.patterns import cldr_day_pattern


def day_by_pattern(value: date, pattern: str, locale: str) -> str:
    """A date by a pattern: that of a spreadsheet in any case (DD/MM/YYYY, d mmm yyyy), or CLDR's (EEEE d MMMM y)."""
    moment = value if isinstance(value, datetime) else datetime.combine(value, time())
    return str(format_datetime(moment, _cldr_pattern(pattern), locale=locale.replace("-", "_")))


class OtherMeaning(ValueError):
    """A pattern that would mean something else than its letters look like."""


_CLDR_QUOTED = re.compile("'(?:[^']|'')*'")
# What letters mean to CLDR (UTS 35, part 4, 8) that a clerk means otherwise.
_ELSEWHERE = {
    "D": ("the day of the year", "d"),
    "Y": ("the year that its week belongs to", "y"),
    "L": ("the month standing alone", "M"),
    "u": ("another calendar's year", "y"),
    "U": ("a year's name", "y"),
    "r": ("another calendar's year", "y"),
    "F": ("the week of the month", "d"),
    "g": ("a count of days", "d"),
    "w": ("the week of the year", "d"),
    "W": ("the week of the month", "d"),
    "A": ("milliseconds", "a"),
    "S": ("parts of a second", "s"),
}
_ONLY_CLDR = re.compile("[EecaLBbQqGkK]")


@lru_cache(maxsize=256)
def _cldr_pattern(pattern: str) -> str:
    """A pattern of days as one of CLDR.

    Days, months and years are d, m and y in either case, as a clerk has them. With a letter that only CLDR has, such as
    E for the weekday, letters count as they do there; what a clerk would mean otherwise is refused with the mend.
    """
    bare = _CLDR_QUOTED.sub("", pattern)
    if not _ONLY_CLDR.search(bare):
        return cldr_day_pattern(_CLDR_QUOTED.sub(_in_double_quotes, pattern))
    for letter, (meaning, instead) in _ELSEWHERE.items():
        if letter in bare:
            raise OtherMeaning(f"{letter} is {meaning} there; write {instead}")
    if "m" in bare and not re.search("[hH]", bare):
        raise OtherMeaning("m is minutes there; write M")
    if not re.search("[dMyE]", bare):
        raise OtherMeaning("there is no day, month or year in it")
    return pattern


def _in_double_quotes(match: re.Match[str]) -> str:
    return f'"{match[0][1:-1].replace(chr(39) * 2, chr(39))}"' if len(match[0]) > len("''") else "'"
