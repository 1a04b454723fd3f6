"""Phone numbers: from what was typed to E.164, and whether a text can reach them."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from functools import lru_cache

import phonenumbers
from babel import Locale
from phonenumbers import PhoneNumber, PhoneNumberType, ValidationResult

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.invisible import visible
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.words import clipped, listed, small

TAKES_TEXTS = frozenset(
    {
        PhoneNumberType.MOBILE,
        PhoneNumberType.FIXED_LINE_OR_MOBILE,
        PhoneNumberType.PERSONAL_NUMBER,
        PhoneNumberType.VOIP,
    }
)
_NO_TEXTS = {
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

    `e164` is "" when no number could be read; `problem` is None when a text can be sent to it, and otherwise why not.
    """

    e164: str = ""
    problem: Reason | None = None


def _quoting(says: str, heading: str | None = None) -> tuple[Callable[..., str], str | None]:
    """A sentence in which what was typed stands in quotes, cut short when it is long."""
    return (lambda typed, **more: says.format(typed=clipped(str(typed)), **more)), heading


MISSING = reason_kind("number missing", "no mobile number")
NO_COLUMN = reason_kind("number without a column", "no column has the role mobile number")
NOT_A_NUMBER = reason_kind("number unreadable", *_quoting('"{typed}" is not a phone number', "not a phone number"))
NOT_A_FIGURE = reason_kind("number with decimals", *_quoting("{typed} is not a phone number", "not a phone number"))
LANDLINE_NOTE = reason_kind("number noted as landline", 'the cell says "{note}", which takes no texts')
LETTERS = reason_kind("number with letters", *_quoting('"{typed}" has letters in it', "letters in it"))
DIGITS_LOST = reason_kind(
    "number cut short",
    lambda typed, digits: f"the spreadsheet cut the number to {typed}: {small(digits)} of its digits are lost",
)
IN_DOUBT = reason_kind(
    "number in doubt", *_quoting('the cell itself is in doubt: "{typed}"', "the cell itself is in doubt")
)
EXTENSION = reason_kind(
    "number with extension",
    *_quoting('"{typed}" has an extension, so it rings at a desk', "an extension, so it rings at a desk"),
)
TWO_IN_ONE = reason_kind("number twice", *_quoting('two numbers in one cell: "{typed}"', "two numbers in one cell"))
TOO_LONG_FOR_ANY = reason_kind("number far too long", "too many digits for a phone number")
TAKES_NO_TEXTS = reason_kind("number takes no texts", "{kind}, which takes no texts")
NO_SUCH_NUMBER = reason_kind("number not assigned", "no such number in {country}")
NO_AREA_CODE = reason_kind("number without area code", "no area code for {country}")
NO_SUCH_CODE = reason_kind("number with unknown code", "no country has this code")
TOO_LONG = reason_kind(
    "number too long",
    lambda digits, country: f"{small(digits)} {'digit' if digits == 1 else 'digits'} too long for {country}",
)
TOO_SHORT = reason_kind(
    "number too short",
    lambda digits, country: f"{small(digits)} {'digit' if digits == 1 else 'digits'} short for {country}",
)
WRONG_LENGTH = reason_kind("number of wrong length", "not the length of a number in {country}")
NO_SUCH_COUNTRY = reason_kind(
    "number of unknown country",
    *_quoting('"{typed}" is no country whose numbers are known', "no country whose numbers are known"),
)
DIFFERENT = reason_kind(
    "numbers differ", lambda rows: f"the combined rows {listed(rows.split())} have different numbers"
)
NOT_COMPUTED = reason_kind("number not computed", "{why}")


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
    return country_name(_region_of(e164))


@lru_cache(maxsize=2**17)
def _region_of(e164: str) -> str:
    return phonenumbers.region_code_for_number(phonenumbers.parse(e164, None)) or ""


_AREA = 5
"""Characters that tell the country of a number with the code 1: the code, and the area behind it."""


def countries_of(numbers: Iterable[str]) -> list[str]:
    """The same of many numbers."""
    return [country_name(region) for region in regions_of(numbers)]


def regions_of(numbers: Iterable[str]) -> list[str]:
    """The countries (ISO 3166-1) of numbers in E.164, "" where that is not known.

    Those that begin alike, as far as that tells the country, are read once.
    """
    known: dict[str, str | None] = {}
    found = []
    for e164 in numbers:
        start = e164[:_AREA]
        if start not in known:
            known[start] = _region_of(e164) if len(_beginning(e164)) <= _AREA else None
        region = known[start]
        found.append(_region_of(e164) if region is None else region)
    return found


def _beginning(e164: str) -> str:
    for digits in (1, 2, 3):
        regions = phonenumbers.COUNTRY_CODE_TO_REGION_CODE.get(int(e164[1 : 1 + digits]), ())
        if regions:
            alone = len(regions) == 1
            return e164[: 1 + digits] if alone else e164[:_AREA] if e164.startswith("+1") else e164
    return e164


def known_regions() -> frozenset[str]:
    """ISO 3166-1 codes of the regions whose numbering plan is known."""
    return frozenset(phonenumbers.SUPPORTED_REGIONS)


def tidy_number(cell: Cell, region: str) -> Number:
    """Reads one cell as a phone number of `region` (ISO 3166-1), or of the country whose code it carries.

    Validity and kind are those of the ITU-T E.164 plans as `phonenumbers` knows them. It never guesses at digits: what
    cannot be read for certain comes back with its problem.
    """
    if is_blank(cell):
        return Number(problem=MISSING())
    typed = visible(as_written(cell))
    if _USUAL.fullmatch(typed):
        return _read(typed, region)
    if isinstance(cell, bool) or not isinstance(cell, (str, Decimal)):
        return Number(problem=NOT_A_NUMBER(typed=typed))
    digits, problem = _plain_digits(typed)
    if problem:
        return Number(problem=problem)
    note = _note(digits)
    if note in _LANDLINE_NOTES:
        found = _read(_WORD.sub("", digits), region)
        return Number(found.e164, LANDLINE_NOTE(note=note))
    if note and note not in _MOBILE_NOTES:
        return Number(problem=LETTERS(typed=typed))
    return _read(_WORD.sub("", digits), region)


def _plain_digits(typed: str) -> tuple[str, Reason | None]:
    """Mends what a spreadsheet did to a number without loss; otherwise the problem."""
    if _FLOAT.fullmatch(typed):
        return typed.split(".", maxsplit=1)[0], None
    if _SCIENTIFIC.fullmatch(typed):
        try:
            value = Decimal(typed.replace(",", "."))
        except InvalidOperation:  # pragma: no cover - the pattern leaves no such text
            return typed, None
        exponent = value.as_tuple().exponent
        if isinstance(exponent, int) and exponent > 0:
            return typed, DIGITS_LOST(typed=typed, digits=exponent)
        return format(value, "f"), None if value == value.to_integral_value() else NOT_A_FIGURE(typed=typed)
    if re.fullmatch(r"\d+\.\d+", typed) and len(typed.split(".")[1]) < 3:
        return typed, NOT_A_FIGURE(typed=typed)
    if any(c in _DOUBTS for c in typed):
        return typed, IN_DOUBT(typed=typed)
    if len(typed) > _LONGEST or not any(c.isdigit() for c in typed):
        return typed, NOT_A_NUMBER(typed=typed)
    if _EXTENSION.search(typed):
        return typed, EXTENSION(typed=typed)
    if _BETWEEN_TWO.search(typed) and TWO_NUMBERS.fullmatch(typed):
        return typed, TWO_IN_ONE(typed=typed)
    return typed, None


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
    # A code without its + is taken for one where the digits are no number at home, nor one with a slip in it: behind 00
    # (ITU-T E.164, annex A), or the bare digits. What the region dials in front (011) was read with the number.
    bare = re.sub(r"\D", "", typed)
    if len(bare) > _LONGEST_AT_HOME and not _slip_of_home(bare, region):
        abroad = _read_plainly(f"+{bare.removeprefix('00')}", region)
        return found if abroad.problem else abroad
    return found


_LONGEST_AT_HOME = 10
"""Digits up to which a number without + is taken for one at home only: a slip there must not become one abroad."""
_DIALLED_FIRST = re.compile(r"[01789]{1,3}")
"""What is dialled in front of a number at home (9 for a line, 1 for a distance); common practice, no source."""


def _slip_of_home(digits: str, region: str) -> bool:
    """Whether these digits are a number at home but for one of them, more or less, or for what is dialled first."""
    front = _DIALLED_FIRST.match(digits)
    one_less = {digits[:i] + digits[i + 1 :] for i in range(len(digits))}
    shorter = {digits[i:] for i in range(1, front.end() + 1)} if front else set()
    if any(_at_home(each, region) for each in one_less | shorter):
        return True
    lengths = _lengths_at_home(region)
    if len(digits) + 1 not in lengths:
        return False
    return any(_at_home(digits[:i] + d + digits[i:], region) for i in range(len(digits) + 1) for d in "0123456789")


def _at_home(digits: str, region: str) -> bool:
    """Whether the digits are a number of the region: as they are dialled there, or behind its country code."""
    try:
        number = phonenumbers.parse(digits, region)
    except phonenumbers.NumberParseException:
        return False
    return number.country_code == country_code(region) and phonenumbers.is_valid_number(number)


@lru_cache(maxsize=256)
def _lengths_at_home(region: str) -> frozenset[int]:
    """How many digits a mobile number of the region has: without a trunk prefix, with it, and with the country code."""
    metadata = phonenumbers.PhoneMetadata.metadata_for_region(region, None)
    lengths = metadata.mobile.possible_length if metadata and metadata.mobile else ()
    more = {0, len(str(country_code(region))), len(metadata.national_prefix or "") if metadata else 0}
    return frozenset(n + k for n in lengths for k in more if n > 0)


def _read_plainly(typed: str, region: str) -> Number:
    try:
        number = phonenumbers.parse(typed, region)
    except phonenumbers.NumberParseException as fault:
        too_long = fault.error_type == phonenumbers.NumberParseException.TOO_LONG
        return Number(problem=TOO_LONG_FOR_ANY() if too_long else NOT_A_NUMBER(typed=typed.strip()))
    kind = phonenumbers.number_type(number)
    if kind == PhoneNumberType.UNKNOWN:
        return Number(problem=_unknown(number, region))
    e164 = phonenumbers.format_number(number, phonenumbers.PhoneNumberFormat.E164)
    if kind in TAKES_TEXTS:
        return Number(e164)
    return Number(e164, TAKES_NO_TEXTS(kind=_NO_TEXTS[kind]))


def _unknown(number: PhoneNumber, region: str) -> Reason:
    """Why a number that no plan knows is none: its length, or that there is no such number."""
    code = number.country_code or 0
    home = phonenumbers.country_code_for_region(region) == code
    country = region if home else phonenumbers.region_code_for_country_code(code)
    return _length_problem(number, country) or NO_SUCH_NUMBER(country=country_name(country))


def _length_problem(number: PhoneNumber, country: str) -> Reason | None:
    """What is wrong with the number's length; None when it is possible."""
    verdict = phonenumbers.is_possible_number_with_reason(number)
    if verdict == ValidationResult.IS_POSSIBLE:
        return None
    name = country_name(country)
    if verdict == ValidationResult.IS_POSSIBLE_LOCAL_ONLY:
        return NO_AREA_CODE(country=name)
    if verdict == ValidationResult.INVALID_COUNTRY_CODE:
        return NO_SUCH_CODE()
    metadata = phonenumbers.PhoneMetadata.metadata_for_region(country, None)
    lengths = metadata.general_desc.possible_length if metadata and metadata.general_desc else ()
    have = len(phonenumbers.national_significant_number(number))
    longer = [n - have for n in lengths if n > have]
    shorter = [have - n for n in lengths if 0 < n < have]
    if verdict == ValidationResult.TOO_LONG and shorter:
        off = min(shorter)
        return TOO_LONG(digits=off, country=name)
    if longer:
        off = min(longer)
        return TOO_SHORT(digits=off, country=name)
    return WRONG_LENGTH(country=name)
