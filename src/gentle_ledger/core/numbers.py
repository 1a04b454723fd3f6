"""Phone numbers: from what was typed to E.164, and whether a text can reach them."""

import re
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from functools import lru_cache

import phonenumbers
from babel import Locale
from phonenumbers import PhoneNumber, PhoneNumberType, ValidationResult

from gentle_ledger.core.invisible import visible
from gentle_ledger.core.sheets.model import Cell, as_written, is_blank
from gentle_ledger.core.words import clipped, small

TAKES_TEXTS = frozenset(
    {
        PhoneNumberType.MOBILE,
        PhoneNumberType.FIXED_LINE_OR_MOBILE,
        PhoneNumberType.PERSONAL_NUMBER,
        PhoneNumberType.VOIP,
    }
)
KINDS = {
    PhoneNumberType.FIXED_LINE: "a landline",
    PhoneNumberType.TOLL_FREE: "a toll-free number",
    PhoneNumberType.PREMIUM_RATE: "a premium-rate number",
    PhoneNumberType.SHARED_COST: "a shared-cost number",
    PhoneNumberType.UAN: "a company's access number",
    PhoneNumberType.PAGER: "a pager",
    PhoneNumberType.VOICEMAIL: "a voicemail number",
}
# What offices write behind a number; common practice, no source.
_MOBILE_NOTES = frozenset({"cell", "mobile", "mob", "cellphone", "text", "tel", "phone", "m", "c", "t", "p"})
_LANDLINE_NOTES = frozenset({"landline", "land", "home", "house", "office", "work", "desk", "fax"})
_WORD = re.compile(r"[^\W\d_]+")
_EXTENSION = re.compile(r"(?:\bext(?:ension)?\b|(?<=[\d\s])x(?=\s*\d)|#)\.?\s*\d+\s*$", re.IGNORECASE)
_DOUBTS = frozenset("?\u00bf\uff1f~\u2248\u2245*!=<>")
"""Signs by which somebody says that a number is not certain, or needs a word more (common practice, no source)."""
_LONGEST = 100
"""Characters past which nothing is looked for in a cell: two numbers and a note are shorter."""
_USUAL = re.compile(r"\+?[(\d][\d\s()\-]{6,}")
"""A number as nearly all are typed: there is nothing to be mended about it."""
_FLOAT = re.compile(r"\+?\d+\.0+")
_SCIENTIFIC = re.compile(r"\d(?:[.,]\d+)?[eE]\+?\d+")
TWO_NUMBERS = re.compile(
    r"([^/;|,]*\d[^/;|,]{5,}\d)\s*(?:/|;|\||,|\bor\b|\band\b)\s*([^/;|,]*\d[^/;|,]{5,}\d.*)", re.IGNORECASE
)
"""Two numbers in one cell, each in a group of its own."""
_BETWEEN_TWO = re.compile(r"[/;|,]|\b(?:or|and)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Number:
    """A phone number as the round uses it.

    `e164` is "" when no number could be read; `problem` is "" when a text can be sent to it, and otherwise says in
    plain words, without a full stop, why not.
    """

    e164: str = ""
    problem: str = ""


@lru_cache(maxsize=256)
def country_name(region: str) -> str:
    """`country_name("CA")` is "Canada" (CLDR territory names)."""
    return str(Locale("en").territories.get(region, region))


@lru_cache(maxsize=256)
def country_code(region: str) -> int:
    """`country_code("CA")` is 1 (ITU-T E.164)."""
    return int(phonenumbers.country_code_for_region(region))


def country_of(e164: str) -> str:
    """The name of the country that a number in E.164 belongs to."""
    return country_name(phonenumbers.region_code_for_number(phonenumbers.parse(e164, None)) or "")


def known_regions() -> frozenset[str]:
    """ISO 3166-1 codes of the regions whose numbering plan is known."""
    return frozenset(phonenumbers.SUPPORTED_REGIONS)


def tidy_number(cell: Cell, region: str) -> Number:
    """Reads one cell as a phone number of `region` (ISO 3166-1), or of the country whose code it carries.

    Validity and kind are those of the ITU-T E.164 plans as `phonenumbers` knows them. It never guesses at digits: what
    cannot be read for certain comes back with its problem.
    """
    if is_blank(cell):
        return Number(problem="no mobile number")
    typed = visible(as_written(cell))
    if _USUAL.fullmatch(typed):
        return _read(typed, region)
    if isinstance(cell, bool) or not isinstance(cell, (str, Decimal)):
        return Number(problem=f'"{clipped(typed)}" is not a phone number')
    digits, problem = _plain_digits(typed)
    if problem:
        return Number(problem=problem)
    note = _note(digits)
    if note in _LANDLINE_NOTES:
        found = _read(_WORD.sub("", digits), region)
        return Number(found.e164, f'the cell says "{note}", which takes no texts')
    if note and note not in _MOBILE_NOTES:
        return Number(problem=f'"{clipped(typed)}" has letters in it')
    return _read(_WORD.sub("", digits), region)


def _plain_digits(typed: str) -> tuple[str, str]:
    """Mends what a spreadsheet did to a number without loss; otherwise the problem."""
    if _FLOAT.fullmatch(typed):
        return typed.split(".", maxsplit=1)[0], ""
    if _SCIENTIFIC.fullmatch(typed):
        try:
            value = Decimal(typed.replace(",", "."))
        except InvalidOperation:  # pragma: no cover - the pattern leaves no such text
            return typed, ""
        exponent = value.as_tuple().exponent
        if isinstance(exponent, int) and exponent > 0:
            return (
                typed,
                f"the spreadsheet cut the number to {typed}: {small(exponent)} of its digits are lost",
            )
        return format(value, "f"), "" if value == value.to_integral_value() else f"{typed} is not a phone number"
    if re.fullmatch(r"\d+\.\d+", typed) and len(typed.split(".")[1]) < 3:
        return typed, f"{typed} is not a phone number"
    if any(c in _DOUBTS for c in typed):
        return typed, f'the cell itself is in doubt: "{clipped(typed)}"'
    if len(typed) > _LONGEST or not any(c.isdigit() for c in typed):
        return typed, f'"{clipped(typed)}" is not a phone number'
    if _EXTENSION.search(typed):
        return typed, f'"{clipped(typed)}" has an extension, so it rings at a desk'
    if _BETWEEN_TWO.search(typed) and TWO_NUMBERS.fullmatch(typed):
        return typed, f'two numbers in one cell: "{clipped(typed)}"'
    return typed, ""


def without_extension(typed: str) -> str:
    """A number without the extension behind it."""
    return _EXTENSION.sub("", typed).rstrip(" ,;-")


def _note(typed: str) -> str:
    """The word written beside the digits that matters most, in lower case; "" when there is none."""
    words: list[str] = [word.casefold() for word in _WORD.findall(typed)]
    for word in words:
        if word in _LANDLINE_NOTES or word not in _MOBILE_NOTES:
            return word
    return words[0] if words else ""


def _read(typed: str, region: str) -> Number:
    found = _read_plainly(typed, region)
    if not found.problem or "+" in typed:
        return found
    # A code without its + cannot be taken for anything else once the digits are no number at home: 00 or 011 in front
    # (ITU-T E.164, annex A, and the North American plan), or the bare digits.
    bare = re.sub(r"\D", "", typed)
    if len(bare) > _LONGEST_AT_HOME:
        abroad = _read_plainly(f"+{bare.removeprefix('00')}", region)
        return found if abroad.problem else abroad
    return found


_LONGEST_AT_HOME = 10
"""Digits up to which a number without + is taken for one at home only: a slip there must not become one abroad."""


def _read_plainly(typed: str, region: str) -> Number:
    try:
        number = phonenumbers.parse(typed, region)
    except phonenumbers.NumberParseException as fault:
        too_long = fault.error_type == phonenumbers.NumberParseException.TOO_LONG
        return Number(
            problem="too many digits for a phone number"
            if too_long
            else f'"{clipped(typed.strip())}" is not a phone number'
        )
    kind = phonenumbers.number_type(number)
    if kind == PhoneNumberType.UNKNOWN:
        return Number(problem=_unknown(number, region))
    e164 = phonenumbers.format_number(number, phonenumbers.PhoneNumberFormat.E164)
    if kind in TAKES_TEXTS:
        return Number(e164)
    return Number(e164, f"{KINDS[kind]}, which takes no texts")


def _unknown(number: PhoneNumber, region: str) -> str:
    """Why a number that no plan knows is none: its length, or that there is no such number."""
    code = number.country_code or 0
    home = phonenumbers.country_code_for_region(region) == code
    country = region if home else phonenumbers.region_code_for_country_code(code)
    return _length_problem(number, country) or f"no such number in {country_name(country)}"


def _length_problem(number: PhoneNumber, country: str) -> str:
    """ "one digit short for Canada", or "" when the length is possible."""
    verdict = phonenumbers.is_possible_number_with_reason(number)
    if verdict == ValidationResult.IS_POSSIBLE:
        return ""
    name = country_name(country)
    if verdict == ValidationResult.IS_POSSIBLE_LOCAL_ONLY:
        return f"no area code for {name}"
    if verdict == ValidationResult.INVALID_COUNTRY_CODE:
        return "no country has this code"
    metadata = phonenumbers.PhoneMetadata.metadata_for_region(country, None)
    lengths = metadata.general_desc.possible_length if metadata and metadata.general_desc else ()
    have = len(phonenumbers.national_significant_number(number))
    longer = [n - have for n in lengths if n > have]
    shorter = [have - n for n in lengths if 0 < n < have]
    if verdict == ValidationResult.TOO_LONG and shorter:
        off = min(shorter)
        return f"{small(off)} {'digit' if off == 1 else 'digits'} too long for {name}"
    if longer:
        off = min(longer)
        return f"{small(off)} {'digit' if off == 1 else 'digits'} short for {name}"
    return f"not the length of a number in {name}"
