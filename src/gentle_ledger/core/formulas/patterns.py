"""Numbers and dates by a pattern, as TEXT writes them: turned into CLDR patterns and written by Babel."""

import re
from datetime import date, datetime, time
from decimal import ROUND_HALF_UP, Decimal
from functools import lru_cache

from babel.dates import format_datetime
from babel.numbers import format_decimal

from gentle_ledger.core.formulas.rounding import rounded
from gentle_ledger.core.formulas.values import Code, Wrong, as_number, as_text
from gentle_ledger.core.sheets.model import Cell
from gentle_ledger.core.words import clipped

_LITERAL = r"""((?:"[^"]*"|\\.|[^"#0,.\\])*)"""
_NUMBER = re.compile(rf"{_LITERAL}([#0][#0,]*(?:\.[#0]*)?|\.[#0]+){_LITERAL}")
_BETWEEN_SECTIONS = re.compile(r""";(?=(?:[^"]*"[^"]*")*[^"]*\Z)""")
_DAY_PIECE = re.compile(r"""d{1,4}|m{1,4}|y{2,4}|h{1,2}|s{1,2}|am/pm|"[^"]*"|.""", re.IGNORECASE | re.DOTALL)
_DAY_NAMES = {"ddd": "EEE", "dddd": "EEEE", "yyy": "yyyy"}


def written(value: Cell, pattern: str, locale: str) -> str:
    """A value by a pattern, in the locale's words and marks. Raises Wrong for a pattern that means nothing."""
    if len(pattern) > _MOST_PATTERN:
        raise Wrong(Code.VALUE, f"the pattern has {len(pattern):,} characters; at most {_MOST_PATTERN} can be used")
    if isinstance(value, date):
        return _day(value, pattern, locale)
    if isinstance(value, str) and not pattern.strip("@"):
        return value
    return _number(as_number(value), pattern, locale)


@lru_cache(maxsize=16_384)
def _number(number: Decimal, pattern: str, locale: str) -> str:
    # For what is above 0; below 0, without a sign of its own; and 0.
    sections = _BETWEEN_SECTIONS.split(pattern)
    place = 1 if number < 0 else 2 if not number else 0
    place = place if place < len(sections) else 0
    match = _NUMBER.fullmatch(sections[place])
    if match is None or len(sections) > _MOST_SECTIONS:
        raise Wrong(Code.VALUE, f"'{clipped(pattern)}' is not a pattern for a number, such as 0.00 or #,##0")
    front, core, back = _unquoted(match[1]), match[2], _unquoted(match[3])
    shown = number * 100 if "%" in front + back else number
    decimals = len(core.partition(".")[2])
    shown = rounded(shown, Decimal(decimals), ROUND_HALF_UP)
    if not shown and number < 0:
        return _number(Decimal(0), pattern, locale)
    digits = format_decimal(abs(shown), format=core, locale=locale.replace("-", "_"), decimal_quantization=False)
    return f"{'-' if shown < 0 and place == 0 else ''}{front}{digits}{back}"


_MOST_SECTIONS = 3
_MOST_PATTERN = 200


def _unquoted(literal: str) -> str:
    return re.sub(r"""\\(.)|\"""", r"\1", literal)


@lru_cache(maxsize=16_384)
def _day(day: date, pattern: str, locale: str) -> str:
    moment = day if isinstance(day, datetime) else datetime.combine(day, time())
    cldr = cldr_day_pattern(pattern)
    if not any(c in pattern.casefold() for c in "dmyhs"):
        raise Wrong(
            Code.VALUE, f"'{clipped(pattern)}' is not a pattern for the date {as_text(day)}, such as d mmm yyyy"
        )
    return str(format_datetime(moment, cldr, locale=locale.replace("-", "_")))


@lru_cache(maxsize=256)
def cldr_day_pattern(pattern: str) -> str:
    pieces = _DAY_PIECE.findall(pattern)
    halves = any(piece.casefold() == "am/pm" for piece in pieces)
    letters = [piece.casefold() for piece in pieces]
    codes = [i for i, piece in enumerate(letters) if re.fullmatch(r"[dmyhs]+", piece)]
    out = []
    for i, piece in enumerate(letters):
        if i not in codes:
            out.append("a" if piece == "am/pm" else _quoted(pieces[i].replace('"', "")))
            continue
        at = codes.index(i)
        near = [letters[codes[j]][0] for j in (at - 1, at + 1) if 0 <= j < len(codes)]
        if piece[0] == "m":
            # "mm" behind an hour or before a second is minutes.
            after_hour = at > 0 and letters[codes[at - 1]][0] == "h"
            before_second = at + 1 < len(codes) and near[-1] == "s"
            out.append(piece if (after_hour or before_second) and len(piece) < 3 else piece.upper())
        elif piece[0] == "h":
            out.append(piece if halves else piece.upper())
        else:
            out.append(_DAY_NAMES.get(piece, piece))
    return "".join(out)


def _quoted(literal: str) -> str:
    return "'" + literal.replace("'", "''") + "'" if re.search(r"[A-Za-z']", literal) else literal
