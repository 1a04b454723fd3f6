"""What the number format of a workbook's cell makes of its number: a percentage, another currency, a code, a time.

A format that only says how many decimals are shown, or that shows the round's own currency, leaves the number a number.
"""

import re
import unicodedata
from datetime import time, timedelta
from decimal import Decimal
from functools import lru_cache

from babel import Locale

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.figures import signs_of
from gentle_ledger.core.cells.locales import known_currency
from gentle_ledger.core.formulas.patterns import written
from gentle_ledger.core.formulas.values import Wrong, plain

_WORDS = re.compile(r'"([^"]*)"|\\(.)|\[\$([^\]\-]*)[^\]]*\]|_.|\*.|\[[^\]]*\]')
_CODE = re.compile(r"\b[A-Z]{3}\b")
_DIGITS = re.compile(r"[0#?][0#?,. \-()/]*")
_LONGEST = 200


def as_shown(number: Decimal, code: str, currency: str) -> Cell:
    """A number as its format shows it, where that is more than a number; else the number.

    Args:
        number: what is kept in the cell.
        code: the cell's number format (ECMA-376 part 1, 18.8.31).
        currency: the round's; amounts with the sign of another one become text with that sign, and are held as such.
    """
    kind, sign = kind_of(code, currency)
    if kind == "percent":
        return f"{plain(number.scaleb(2))}%"
    if kind == "currency":
        return f"{sign} {plain(number)}"
    if kind == "code":
        try:
            return written(number, code, "en")
        except Wrong:
            return number
    return number


@lru_cache(maxsize=1024)
def kind_of(code: str, currency: str) -> tuple[str, str]:
    """What a format makes of a number: "percent", "currency" with its sign, "code", or "" for a plain number."""
    if len(code) > _LONGEST:
        return "", ""
    section = _first_section(code)
    bare = _WORDS.sub("", section)
    if "%" in bare:
        return "percent", ""
    words = "".join(match[1] or match[2] or match[3] or "" for match in _WORDS.finditer(section))
    sign = sign_in(words + bare)
    if sign:
        return ("", "") if sign in signs_of(currency) else ("currency", sign)
    digits = _DIGITS.search(bare)
    if digits is None:
        return "", ""
    places = re.sub(r"[^0#?.]", "", digits[0]).partition(".")
    padded = places[0].count("0") > 1 and not places[1] and "," not in digits[0]
    front = _WORDS.split(section, maxsplit=1)[0] == "" and any(c.isalpha() for c in _before_digits(section))
    return ("code", "") if padded or front else ("", "")


def _first_section(code: str) -> str:
    quoted = False
    for i, character in enumerate(code):
        if character == '"':
            quoted = not quoted
        elif character == ";" and not quoted:
            return code[:i]
    return code


def _before_digits(section: str) -> str:
    """The words that a format writes in front of the first digit."""
    out = []
    at = 0
    while at < len(section):
        if match := _WORDS.match(section, at):
            out.append(match[1] or match[2] or "")
            at = match.end()
        elif section[at] in "0#?":
            break
        else:
            at += 1
    return "".join(out)


def sign_in(words: str) -> str:
    """The sign or ISO 4217 code of a currency among the words of a format; "" for none."""
    sign = "".join(c for c in words if unicodedata.category(c) == "Sc")
    if sign:
        around = re.search(rf"[A-Z]{{0,3}}{re.escape(sign)}", words)
        return around[0] if around else sign
    code = next((code for code in _CODE.findall(words) if known_currency(code)), "")
    return code or next((word for word in re.findall(r"[^\W\d_]+", words) if word in _signs_in_letters()), "")


@lru_cache(maxsize=1)
def _signs_in_letters() -> frozenset[str]:
    """Signs of currencies that are made of letters, in their own languages (CLDR): kr, zł, Kč, Ft."""
    found = set()
    for tag in ("bg", "cs", "da", "hu", "is", "lt", "mk", "nb", "pl", "ro", "ru", "sq", "sr", "sv"):
        found |= {str(sign).rstrip(".") for sign in Locale.parse(tag).currency_symbols.values()}
    return frozenset(sign for sign in found if sign.isalpha() and not known_currency(sign.upper()))


def time_shown(value: time | timedelta) -> str:
    """A time of day, or hours counted beyond a day, as a clock shows them: 14:30, 42:00, 0:05:30."""
    if isinstance(value, time):
        return value.strftime("%H:%M:%S" if value.second else "%H:%M")
    seconds = round(value.total_seconds())
    sign, seconds = ("-", -seconds) if seconds < 0 else ("", seconds)
    hours, minutes = divmod(seconds // 60, 60)
    return f"{sign}{hours}:{minutes:02}" + (f":{seconds % 60:02}" if seconds % 60 else "")


def as_decimal(value: float) -> Decimal:
    """A workbook's number as the 15 significant digits a spreadsheet shows, never as a binary float."""
    return Decimal(int(value)) if value.is_integer() and abs(value) < 1e15 else Decimal(format(value, ".15g"))
