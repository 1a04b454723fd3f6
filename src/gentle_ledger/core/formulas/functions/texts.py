"""Texts (OpenFormula: ODF 1.3 part 4, 6.20). Characters are Unicode code points."""

import re
import unicodedata
from decimal import Decimal
from urllib.parse import quote

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.invisible import shown
from gentle_ledger.core.cells.reading import amount_in
from gentle_ledger.core.formulas.patterns import written
from gentle_ledger.core.formulas.registry import FormulaContext, define
from gentle_ledger.core.formulas.values import (
    MOST_TEXT,
    ONE,
    WORK,
    Code,
    Wrong,
    as_text,
    bounded,
    not_a,
    number_in,
    too_long,
    whole,
)

_TEXTS = "Texts"
_FRACTION = re.compile(r"([+-])?(?:(\d{1,15})\s+)?(\d{1,15})/(\d{1,15})")


def _length(characters: Decimal, what: str = "a number of characters") -> int:
    if characters < 0:
        raise Wrong(Code.VALUE, f"{as_text(characters)} is not {what}")
    return min(whole(characters), MOST_TEXT)


def _from_one(place: Decimal) -> int:
    """A place counted from 1, as one counted from 0."""
    found = whole(place)
    if found < 1:
        raise Wrong(Code.VALUE, f"{as_text(place)} is not a place in a text; the first is 1")
    return min(found, MOST_TEXT + 1) - 1


@define(
    _TEXTS,
    "CONCATENATE",
    "text:text…",
    "The texts one after another, as with &.",
    ('CONCATENATE("C"; 14)', '"C14"'),
    joins=True,
)
def concatenate(*texts: str) -> str:
    return bounded("".join(texts))


@define(
    _TEXTS,
    "TEXTJOIN",
    "between:text; skip blank:truth; text:any…",
    "The texts with something between them; with TRUE blank ones are passed over.",
    ('TEXTJOIN(", "; TRUE; "C14"; ""; "D02")', '"C14, D02"'),
    ('TEXTJOIN("-"; FALSE; "a"; ""; "b")', '"a--b"'),
    joins=True,
)
def textjoin(between: str, skip_blank: bool, *texts: Cell) -> str:
    found = [as_text(text) for text in texts]
    return bounded(between.join(text for text in found if text or not skip_blank))


@define(
    _TEXTS,
    "LEFT",
    "text:text; [characters:number]",
    "The first characters; one when their number is left out.",
    ('LEFT("Hello")', '"H"'),
    ('LEFT("C14"; 2)', '"C1"'),
    ('LEFT("Hello"; -1)', "#VALUE!"),
)
def left(text: str, characters: Decimal = ONE) -> str:
    return text[: _length(characters)]


@define(
    _TEXTS,
    "RIGHT",
    "text:text; [characters:number]",
    "The last characters; one when their number is left out.",
    ('RIGHT("Hello"; 2)', '"lo"'),
    ('RIGHT("Hello"; 0)', '""'),
)
def right(text: str, characters: Decimal = ONE) -> str:
    wanted = _length(characters)
    return text[-wanted:] if wanted else ""


@define(
    _TEXTS,
    "MID",
    "text:text; start:number; characters:number",
    "So many characters from a place on; the first is 1.",
    ('MID("123456789"; 5; 2)', '"56"'),
    ('MID("123456789"; 20; 3)', '""'),
)
def mid(text: str, start: Decimal, characters: Decimal) -> str:
    begin = _from_one(start)
    return text[begin : begin + _length(characters)]


@define(_TEXTS, "LEN", "text:text", "How many characters a text has.", ('LEN("Hi There")', "8"), ("LEN(55)", "2"))
def len_(text: str) -> Decimal:
    return Decimal(len(text))


@define(_TEXTS, "UPPER", "text:text", "In capitals.", ('UPPER("c14")', '"C14"'))
def upper(text: str) -> str:
    return bounded(text.upper())


@define(_TEXTS, "LOWER", "text:text", "In small letters.", ('LOWER("HAbc7")', '"habc7"'))
def lower(text: str) -> str:
    return bounded(text.lower())


@define(
    _TEXTS,
    "PROPER",
    "text:text",
    "The first letter of every word in capitals, the others small.",
    ('PROPER("o\'neil mcdonald")', '"O\'Neil Mcdonald"'),
)
def proper(text: str) -> str:
    return bounded(text.title())


@define(
    _TEXTS,
    "TRIM",
    "text:text",
    "Without spaces at either end, and with single ones within.",
    ('TRIM("  Grey   Heron ")', '"Grey Heron"'),
)
def trim(text: str) -> str:
    return re.sub(" +", " ", text.strip(" "))


@define(
    _TEXTS,
    "CLEAN",
    "text:text",
    "Without characters that do not print, such as line breaks.",
    ('CLEAN("a" & CHAR(10) & "b")', '"ab"'),
)
def clean(text: str) -> str:
    return "".join(c for c in text if unicodedata.category(c) not in {"Cc", "Cn"})


@define(
    _TEXTS,
    "SUBSTITUTE",
    "text:text; old:text; new:text; [which:number]",
    "A text with every old piece replaced, or only the one that is named: 2 for the second.",
    ('SUBSTITUTE("121212"; "2"; "ab"; 2)', '"121ab12"'),
    ('SUBSTITUTE("C-14"; "-"; "")', '"C14"'),
)
def substitute(text: str, old: str, new: str, which: Decimal | None = None) -> str:
    at = None if which is None else whole(which)
    if at is not None and at < 1:
        raise Wrong(Code.VALUE, f"{as_text(which)} is not which one to replace; the first is 1")
    if not old:
        return text
    found = text.count(old)
    if at is None:
        length = len(text) + found * (len(new) - len(old))
        if length > MOST_TEXT:
            raise too_long(length)
        return text.replace(old, new)
    if at > found:
        return text
    pieces = text.split(old)
    return bounded(old.join(pieces[:at]) + new + old.join(pieces[at:]))


@define(
    _TEXTS,
    "REPLACE",
    "text:text; start:number; characters:number; new:text",
    "A text with so many characters from a place on replaced by new ones.",
    ('REPLACE("123456789"; 5; 3; "Q")', '"1234Q89"'),
)
def replace(text: str, start: Decimal, characters: Decimal, new: str) -> str:
    begin = _from_one(start)
    return bounded(text[:begin] + new + text[begin + _length(characters) :])


@define(
    _TEXTS,
    "FIND",
    "wanted:text; text:text; [start:number]",
    "Where a text stands in another, capitals and small letters told apart; the first place is 1.",
    ('FIND("b"; "abcabcabc"; 3)', "5"),
    ('FIND("B"; "abc")', "#VALUE!"),
)
def find(wanted: str, text: str, start: Decimal = ONE) -> Decimal:
    return _found(wanted, text, start)


@define(
    _TEXTS,
    "SEARCH",
    "wanted:text; text:text; [start:number]",
    "As FIND, capitals and small letters alike. Every character stands for itself.",
    ('SEARCH("b"; "ABC")', "2"),
)
def search(wanted: str, text: str, start: Decimal = ONE) -> Decimal:
    return _found(wanted.lower(), text.lower(), start)


def _found(wanted: str, text: str, start: Decimal) -> Decimal:
    at = text.find(wanted, _from_one(start))
    if at < 0:
        raise Wrong(Code.VALUE, f"there is no '{wanted[:40]}' in '{text[:40]}'")
    return Decimal(at + 1)


@define(_TEXTS, "REPT", "text:text; times:number", "A text so many times over.", ('REPT("X"; 3)', '"XXX"'))
def rept(text: str, times: Decimal) -> str:
    if times < 0:
        raise Wrong(Code.VALUE, f"{as_text(times)} is not a number of times")
    length = len(text) * whole(times)
    if length > MOST_TEXT:
        raise too_long(length)
    return text * whole(times) if text else ""


@define(
    _TEXTS,
    "EXACT",
    "text:text; other:text",
    "True when two texts are the same, capitals and small letters told apart.",
    ('EXACT("A"; "a")', "FALSE"),
)
def exact(text: str, other: str) -> bool:
    return shown(text) == shown(other)


@define(
    _TEXTS,
    "TEXT",
    "value:any; pattern:text",
    'A number or a date written by a pattern: "0.00", "#,##0", "0%", "000", "d mmm yyyy", "dddd".',
    ('TEXT(12.34567; "###.##")', '"12.35"'),
    ('TEXT(5; "000")', '"005"'),
    ('TEXT(1234.5; "#,##0.00")', '"1,234.50"'),
    ('TEXT(-5; "0.00;(0.00)")', '"(5.00)"'),
    ('TEXT(DATE(2026; 11; 5); "dd mmm yyyy")', '"05 Nov 2026"'),
    in_context=True,
)
def text_(around: FormulaContext, value: Cell, pattern: str) -> str:
    return bounded(written(value, pattern, around.locale))


@define(
    _TEXTS,
    "VALUE",
    "text:any",
    "The number a text is, typed plainly, as an amount in the round's currency, as a percentage, or as a fraction.",
    ('VALUE("1E5")', "100000"),
    ('VALUE("$1,234.50")', "1234.5"),
    ('VALUE("12.5%")', "0.125"),
    ('VALUE("1 1/2")', "1.5"),
    ('VALUE("soon")', "#VALUE!"),
    in_context=True,
)
def value_(around: FormulaContext, text: Cell) -> Decimal:
    if isinstance(text, Decimal):
        return text
    if not isinstance(text, str):
        raise not_a("a number", text, None)
    typed = text.strip()
    if (found := number_in(typed)) is not None:
        return found
    if (fraction := _FRACTION.fullmatch(typed)) and int(fraction[4]):
        part = WORK.divide(Decimal(fraction[3]), Decimal(fraction[4]))
        both = WORK.add(Decimal(fraction[2] or 0), part)
        return -both if fraction[1] == "-" else both
    read = amount_in(typed, around.currency, around.locale)
    if read is None:
        raise not_a("a number", text, None)
    return read


@define(
    _TEXTS,
    "CHAR",
    "code:number",
    "The character of a code from 1 to 127 (ASCII); 10 is a line break.",
    ("CHAR(65)", '"A"'),
)
def char(code: Decimal) -> str:
    point = whole(code)
    if not 1 <= point <= 127:
        raise Wrong(Code.VALUE, f"{as_text(code)} is not a code from 1 to 127; UNICHAR knows all others")
    return chr(point)


@define(_TEXTS, "UNICHAR", "code:number", "The character of a Unicode code point.", ("UNICHAR(233)", '"é"'))
def unichar(code: Decimal) -> str:
    point = whole(code)
    if not 1 <= point <= 0x10FFFF or 0xD800 <= point <= 0xDFFF:
        raise Wrong(Code.VALUE, f"{as_text(code)} is not the code point of a character")
    return chr(point)


@define(_TEXTS, "CODE", "text:text", "The code of the first character.", ('CODE("A")', "65"))
def code_(text: str) -> Decimal:
    return _first_code(text)


@define(_TEXTS, "UNICODE", "text:text", "The Unicode code point of the first character.", ('UNICODE("é")', "233"))
def unicode_(text: str) -> Decimal:
    return _first_code(text)


def _first_code(text: str) -> Decimal:
    if not text:
        raise Wrong(Code.VALUE, "a text without characters has no first one")
    return Decimal(ord(text[0]))


@define(
    _TEXTS,
    "ENCODEURL",
    "text:text",
    "A text percent-encoded in UTF-8 for a link; letters, digits and - . _ ~ stay (RFC 3986, 2.3).",
    ('ENCODEURL("Grey Heron & Son")', '"Grey%20Heron%20%26%20Son"'),
    ('ENCODEURL("é")', '"%C3%A9"'),
)
def encodeurl(text: str) -> str:
    return bounded(quote(text, safe=""))


PLACE = 40
"""Where these functions stand in the help, the smallest first."""
FUNCTIONS = (
    concatenate,
    textjoin,
    text_,
    value_,
    left,
    right,
    mid,
    len_,
    upper,
    lower,
    proper,
    trim,
    clean,
    substitute,
    replace,
    find,
    search,
    rept,
    exact,
    char,
    unichar,
    code_,
    unicode_,
    encodeurl,
)
