"""Numbers and dates by a pattern, as TEXT writes them (ECMA-376 part 1, 18.8.31), in the locale's words and marks.

A pattern is read piece by piece; a letter or a bracket that means nothing here is refused, never written out.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from functools import lru_cache

from babel.dates import format_datetime
from babel.numbers import get_decimal_symbol, get_group_symbol

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.formulas.rounding import rounded
from gentle_ledger.core.formulas.values import Code, Wrong, as_day, as_number, plain

_PIECES = re.compile(
    r"""(?P<quoted>"[^"]*")|\\(?P<escaped>.)|_(?P<room>.)|\*(?P<fill>.)|\[(?P<bracket>[^\]]*)\]"""
    r"""|(?P<half>am/pm|a/p)|(?P<general>general)|(?P<power>e[+-])|(?P<day>d{1,5}|m{1,5}|y{1,4}|h{1,2}|s{1,2})"""
    r"""|(?P<digit>[0#?])|(?P<mark>[.,%/@;])|(?P<plain>[^A-Za-z"\\_*\[\]])|(?P<other>.)""",
    re.IGNORECASE | re.DOTALL,
)
_COLOURS = frozenset({"black", "blue", "cyan", "green", "magenta", "red", "white", "yellow"})
_COLOUR = re.compile(r"color ?\d{1,2}")
_ELAPSED = re.compile(r"h{1,2}|m{1,2}|s{1,2}")
_SIGN_AND_PLACE = re.compile(r"\$([^\-]*)(?:-[0-9a-f]+)?")
_MOST_SECTIONS = 4
_MOST_PATTERN = 200
_TEXT_SECTION = 3


@dataclass(frozen=True, slots=True)
class _Piece:
    """One piece of a pattern: "words" to write as they are, a "digit", a "mark", a "day" code, "elapsed" and others."""

    kind: str
    text: str


def written(value: Cell, pattern: str, locale: str) -> str:
    """A value by a pattern. Raises Wrong for a pattern that means nothing, or nothing for such a value."""
    if len(pattern) > _MOST_PATTERN:
        raise Wrong(Code.VALUE, f"the pattern has {len(pattern):,} characters; at most {_MOST_PATTERN} can be used")
    sections = _sections(pattern)
    if isinstance(value, str) and any(piece.kind == "day" for piece in sections[0]):
        value = as_day(value)
    if isinstance(value, date):
        return _day(value, pattern, locale)
    if isinstance(value, str) and any(p.text == "@" for p in sections[-1]) and len(sections) in {1, _TEXT_SECTION + 1}:
        return "".join(value if piece.text == "@" else piece.text for piece in sections[-1])
    return _number(as_number(value), pattern, locale)


@lru_cache(maxsize=512)
def _sections(pattern: str) -> tuple[tuple[_Piece, ...], ...]:
    """The pieces of a pattern, in sections: above 0, below 0, 0, text."""
    found: list[list[_Piece]] = [[]]
    for match in _PIECES.finditer(pattern):
        kind, text = match.lastgroup or "", match[0]
        if text == ";":
            found.append([])
            continue
        if kind == "bracket":
            piece = _bracket(match["bracket"], pattern)
        elif kind in {"quoted", "escaped", "plain", "room", "fill"}:
            # A sign of that width, or as many signs as there is room for, is one space or none in a text.
            shown = {"quoted": text[1:-1], "escaped": text[1:], "room": " ", "fill": ""}.get(kind, text)
            piece = _Piece("words", shown)
        elif kind == "other":
            raise _meaningless(pattern, f"'{text}' stands for nothing in it; put words in quotes")
        else:
            piece = _Piece(kind, text.casefold())
        found[-1].append(piece)
    if len(found) > _MOST_SECTIONS:
        raise _meaningless(pattern, f"it has more than {_MOST_SECTIONS} sections")
    return tuple(tuple(section) for section in found)


def _bracket(inside: str, pattern: str) -> _Piece:
    """What stands in square brackets: a colour, a currency's sign, hours beyond a day; a condition is refused."""
    small = inside.casefold()
    if small in _COLOURS or _COLOUR.fullmatch(small):
        return _Piece("words", "")
    if match := _SIGN_AND_PLACE.fullmatch(small):
        return _Piece("words", inside[1 : 1 + len(match[1])])
    if _ELAPSED.fullmatch(small):
        return _Piece("elapsed", small)
    raise _meaningless(pattern, f"[{inside}] cannot be used; decide with IF instead")


def _meaningless(pattern: str, why: str, wanted: str = "") -> Wrong:
    return Wrong(Code.VALUE, f"'{clipped(pattern)}' is not a pattern{wanted}: {why}")


_FOR_A_NUMBER = " for a number, such as 0.00 or #,##0"


@lru_cache(maxsize=16_384)
def _number(number: Decimal, pattern: str, locale: str) -> str:
    # For what is above 0; below 0, without a sign of its own; and 0.
    sections = [section for section in _sections(pattern) if all(piece.text != "@" for piece in section)]
    if not sections:
        return "".join(plain(number) if piece.text == "@" else piece.text for piece in _sections(pattern)[-1])
    place = 1 if number < 0 else 2 if not number else 0
    place = place if place < min(len(sections), _TEXT_SECTION) else 0
    pieces = sections[place]
    kinds = {piece.kind for piece in pieces}
    if "elapsed" in kinds:
        return _elapsed(number, pieces, pattern)
    if kinds & {"day", "half"}:
        raise _meaningless(pattern, "it is one for days, and this is a number", _FOR_A_NUMBER)
    if "general" in kinds:
        return "".join(plain(number) if piece.kind == "general" else piece.text for piece in pieces)
    if "digit" not in kinds:
        if len(sections) == 1 or "mark" in kinds:
            raise _meaningless(pattern, "there is no 0 or # in it", _FOR_A_NUMBER)
        return "".join(piece.text for piece in pieces)
    digits, nothing = _Digits.of(pieces, pattern).write(abs(number), locale)
    if nothing and number < 0:
        return _number(Decimal(0), pattern, locale)
    return f"{'-' if number < 0 and place == 0 else ''}{digits}"


@dataclass(frozen=True, slots=True)
class _Digits:
    """The pieces of a section for figures: in front of the decimal mark, behind it, and the digits of a power of ten.

    `scale` is by how many places the number is moved; `over` has the pieces of a fraction's two numbers.
    """

    front: tuple[_Piece, ...]
    decimals: tuple[_Piece, ...]
    grouped: bool
    scale: int
    power: tuple[_Piece, ...] = ()
    over: tuple[tuple[_Piece, ...], tuple[_Piece, ...]] | None = None

    @staticmethod
    def of(pieces: Sequence[_Piece], pattern: str) -> "_Digits":
        marks = [piece.text for piece in pieces if piece.kind == "mark"]
        if marks.count(".") > 1 or "@" in marks or (marks.count("/") and "." in marks) or marks.count("/") > 1:
            raise _meaningless(pattern, "its marks do not go together", _FOR_A_NUMBER)
        scale = 2 * marks.count("%")
        body = [_Piece("words", "%") if piece.text == "%" and piece.kind == "mark" else piece for piece in pieces]
        power: tuple[_Piece, ...] = ()
        if (e := next((i for i, piece in enumerate(body) if piece.kind == "power"), None)) is not None:
            body, power = body[:e], tuple(body[e:])
        at = [i for i, piece in enumerate(body) if piece.kind == "digit"]
        if not at or (power and "/" in marks):
            raise _meaningless(pattern, "there is no 0 or # where one belongs", _FOR_A_NUMBER)
        if "/" in marks:
            return _Digits._fraction(body, scale, pattern)
        kept, grouped = [], False
        last = at[-1]
        for i, piece in enumerate(body):
            if piece.kind == "mark" and piece.text == ",":
                # Between digits it groups them; behind the last one it leaves three places off.
                if at[0] < i < last:
                    grouped = True
                elif i > last:
                    scale -= 3
                else:
                    kept.append(_Piece("words", ","))
            else:
                kept.append(piece)
        point = next((i for i, piece in enumerate(kept) if piece.kind == "mark"), len(kept))
        return _Digits(tuple(kept[:point]), tuple(kept[point:]), grouped, scale, power)

    @staticmethod
    def _fraction(body: Sequence[_Piece], scale: int, pattern: str) -> "_Digits":
        """The whole number in front, if there is one, and the digits above and below the line."""
        line = next(i for i, piece in enumerate(body) if piece.text == "/" and piece.kind == "mark")
        start = line
        while start and body[start - 1].kind == "digit":
            start -= 1
        end = line + 1
        while end < len(body) and body[end].kind == "digit":
            end += 1
        if start == line or end == line + 1 or any(piece.kind == "mark" for piece in body if piece.text != "/"):
            raise _meaningless(pattern, "its fraction lacks a number", _FOR_A_NUMBER)
        over = (tuple(body[start:line]), tuple(body[line + 1 : end]))
        return _Digits(tuple(body[:start]), tuple(body[end:]), grouped=False, scale=scale, over=over)

    def write(self, number: Decimal, locale: str) -> tuple[str, bool]:
        """The number, not negative, and whether nothing was left of it at these digits."""
        number = number.scaleb(self.scale)
        if self.over:
            return self._as_fraction(number, locale), not number
        if self.power:
            return self._as_power(number, locale), not number
        places = sum(piece.kind == "digit" for piece in self.decimals)
        shown = rounded(number, Decimal(places), ROUND_HALF_UP)
        whole, _, decimals = format(shown, f".{places}f").partition(".")
        return _filled(self.front, whole.lstrip("0"), self.grouped, locale) + _behind(
            self.decimals, decimals, locale
        ), not shown

    def _as_power(self, number: Decimal, locale: str) -> str:
        """With a power of ten: as many digits in front as the pattern has (0.00E+00)."""
        places = sum(piece.kind == "digit" for piece in self.decimals)
        power = number.adjusted() if number else 0
        shown = rounded(number.scaleb(-power), Decimal(places), ROUND_HALF_UP)
        if shown.adjusted() > 0:
            shown, power = shown.scaleb(-1), power + 1
        whole, _, decimals = format(shown, f".{places}f").partition(".")
        sign = "-" if power < 0 else "+" if self.power[0].text.endswith("+") else ""
        exponent = _filled(self.power[1:], str(abs(power)).lstrip("0"), grouped=False, locale=locale)
        front = _filled(self.front, whole.lstrip("0"), self.grouped, locale)
        return f"{front}{_behind(self.decimals, decimals, locale)}E{sign}{exponent}"

    def _as_fraction(self, number: Decimal, locale: str) -> str:
        above, below = self.over or ((), ())
        with_whole = any(piece.kind == "digit" for piece in self.front)
        whole = int(number) if with_whole else 0
        part = Fraction(number - whole).limit_denominator(10 ** len(below) - 1)
        if with_whole and part == 1:
            whole, part = whole + 1, Fraction(0)
        front = _filled(self.front, str(whole or ""), grouped=False, locale=locale)
        behind = "".join(piece.text for piece in self.decimals)
        if with_whole and not part:
            return f"{front or '0'}".rstrip() + behind
        line = f"{_filled(above, str(part.numerator), False, locale)}/{part.denominator!s}"
        return (front if whole or not with_whole else "") + line + behind


def _filled(pieces: Sequence[_Piece], digits: str, grouped: bool, locale: str) -> str:
    """Digits put in their places from the right; the first place takes all that are left."""
    places = [i for i, piece in enumerate(pieces) if piece.kind == "digit"]
    out: list[str] = []
    count = 0
    rest = digits
    for i in range(len(pieces) - 1, -1, -1):
        piece = pieces[i]
        if piece.kind != "digit":
            out.append(piece.text)
            continue
        take = len(rest) if i == places[0] else min(1, len(rest))
        here = rest[len(rest) - take :] if take else {"0": "0", "?": " "}.get(piece.text, "")
        rest = rest[: len(rest) - take]
        for digit in reversed(here):
            if grouped and count and count % 3 == 0 and digit != " ":
                out.append(str(get_group_symbol(locale.replace("-", "_"))))
            out.append(digit)
            count += 1
    return "".join(reversed(out))


def _behind(pieces: Sequence[_Piece], digits: str, locale: str) -> str:
    """The decimals in their places: those that # stands for go when only noughts follow, and with them the mark."""
    places = [i for i, piece in enumerate(pieces) if piece.kind == "digit"]
    out = []
    for i, piece in enumerate(pieces):
        if piece.kind == "digit":
            at = places.index(i)
            nothing = not digits[at:].strip("0")
            out.append({"#": "", "?": " "}.get(piece.text, "0") if nothing else digits[at])
        elif piece.kind == "mark":
            out.append("")
        else:
            out.append(piece.text)
    shown = "".join(text for i, text in enumerate(out) if i in places)
    if pieces and pieces[0].kind == "mark" and shown:
        out[0] = str(get_decimal_symbol(locale.replace("-", "_")))
    return "".join(out)


def _elapsed(number: Decimal, pieces: Sequence[_Piece], pattern: str) -> str:
    """Days as hours, minutes and seconds that are counted beyond a day: [h]:mm."""
    seconds = int(rounded(abs(number) * 86_400, Decimal(0), ROUND_HALF_UP))
    units = {"h": 3_600, "m": 60, "s": 1}
    out = []
    counted = next(piece.text[0] for piece in pieces if piece.kind == "elapsed")
    for piece in pieces:
        unit = units.get(piece.text[:1]) if piece.kind in {"elapsed", "day"} else None
        if piece.kind == "elapsed" and unit:
            out.append(str(seconds // unit).zfill(len(piece.text)))
        elif unit and unit < units[counted]:
            out.append(str(seconds // unit % 60).zfill(len(piece.text)))
        elif piece.kind in {"words", "mark"} and piece.text != "@":
            out.append(piece.text)
        else:
            raise _meaningless(pattern, f"'{piece.text}' does not go with hours beyond a day")
    return f"{'-' if number < 0 else ''}{''.join(out)}"


@lru_cache(maxsize=16_384)
def _day(day: date, pattern: str, locale: str) -> str:
    moment = day if isinstance(day, datetime) else datetime.combine(day, time())
    return str(format_datetime(moment, cldr_day_pattern(pattern), locale=locale.replace("-", "_")))


@lru_cache(maxsize=256)
def cldr_day_pattern(pattern: str) -> str:
    """A pattern for days (dd/mm/yyyy, d mmm, h:mm am/pm) as one of CLDR (UTS 35, part 4, 8).

    Letters count in any case; "m" behind an hour or before a second is minutes. Raises Wrong for one that is none.
    """
    pieces = _sections(pattern)[0]
    codes = [piece.text for piece in pieces if piece.kind == "day"]
    if not codes or any(piece.kind in {"digit", "elapsed", "power", "general"} for piece in pieces):
        raise _meaningless(pattern, "there is no day, month or year in it", " for a date, such as d mmm yyyy")
    halves = any(piece.kind == "half" for piece in pieces)
    out, words, at = "", "", 0
    for before, piece in zip((None, *pieces), pieces, strict=False):
        if before and before.kind == piece.kind == "day" and before.text[0] == piece.text[0]:
            raise _meaningless(pattern, f"'{before.text}{piece.text}' is too many of one letter")
        if piece.kind not in {"day", "half"}:
            # Two quoted stretches side by side would be one with a quote in it.
            words += piece.text
            continue
        out += _quoted(words) + ("a" if piece.kind == "half" else _cldr_code(codes, at, halves=halves))
        words = ""
        at += piece.kind == "day"
    return out + _quoted(words)


_DAY_NAMES = {"ddd": "EEE", "dddd": "EEEE", "ddddd": "EEEE", "y": "yy", "yyy": "yyyy"}


def _cldr_code(codes: Sequence[str], at: int, *, halves: bool) -> str:
    code = codes[at]
    if code[0] == "m":
        after_hour = at > 0 and codes[at - 1][0] == "h"
        before_second = at + 1 < len(codes) and codes[at + 1][0] == "s"
        return code if (after_hour or before_second) and len(code) < len("mmm") else code.upper()
    if code[0] == "h":
        return code if halves else code.upper()
    return _DAY_NAMES.get(code, code)


def _quoted(literal: str) -> str:
    return "'" + literal.replace("'", "''") + "'" if re.search(r"[A-Za-z']", literal) else literal
