"""How a column's values are written: money, numbers, percent and dates by CLDR, text in another case."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Context, Decimal
from functools import lru_cache

from babel.dates import format_date, format_skeleton
from babel.numbers import format_currency, format_percent, get_currency_precision, get_decimal_symbol

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.unreadable import Unreadable, said_too_large, too_large
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.formulas.values import Code, Fault, as_text, fault_of, plain
from gentle_ledger.core.recipe.day_patterns import day_by_pattern
from gentle_ledger.core.recipe.format import CASES, LENGTHS, Format, FormatKind
from gentle_ledger.core.sms.alphabet import first_beyond

MOST_DECIMALS = 10
"""Decimals a number is written with when its format names none; 1/3 would have 34."""
PERCENT_DECIMALS = 2
"""The same for a percentage."""


_WANTED = {
    FormatKind.MONEY: "an amount",
    FormatKind.NUMBER: "a number",
    FormatKind.PERCENT: "a number",
    FormatKind.DATE: "a date",
}


@dataclass(frozen=True, slots=True)
class Writer:
    """Writes values for one locale and currency.

    Blank is written as nothing at all, None, so that something can stand in; a text without characters is one.

    `plain_signs` replaces special characters, with which the whole text would take more room: no-break spaces by plain
    ones, signs outside the GSM 7-bit alphabet by the currency's code.
    """

    locale: str
    currency: str
    plain_signs: bool = True

    def write(self, value: Cell, wanted: Format | None) -> str | Unreadable | None:
        """A value as it stands in a text; None for a blank one, and Unreadable when the format cannot write it."""
        return self.writing(wanted)(value)

    def writing(self, wanted: Format | None) -> Callable[[Cell], str | Unreadable | None]:
        """The same for many values of one format."""
        return _writing(self, wanted)


_MOST_REMEMBERED = 131_072


@lru_cache(maxsize=256)
def _writing(writer: Writer, wanted: Format | None) -> Callable[[Cell], str | Unreadable | None]:
    """Amounts and days are remembered as they were written: a round has few different ones, and CLDR takes its time."""
    known: dict[Cell, str | Unreadable] = {}
    remembered = wanted is not None and wanted.kind in {FormatKind.MONEY, FormatKind.DATE}

    def write(value: Cell) -> str | Unreadable | None:
        if value is None:
            return None
        # True equals 1, so only what can have its own equal is looked up.
        if not remembered or isinstance(value, (bool, str)):
            return _written(value, wanted, writer)
        found = known.get(value)
        if found is None:
            if len(known) >= _MOST_REMEMBERED:
                known.clear()
            found = known[value] = _written(value, wanted, writer)
        return found

    return write


def _written(value: Cell, wanted: Format | None, writer: Writer) -> str | Unreadable:
    if value == "":
        # A formula may come to no text at all: there is nothing to be written, and nothing wrong.
        return ""
    if wanted and not wanted.strict and not isinstance(value, Decimal):
        wanted = None
    way = wanted.kind if wanted else _by_type(value)
    detail = wanted.detail if wanted else ""
    if way is FormatKind.TEXT:
        text = as_text(value)
        return CASES[detail](text) if detail else text
    if way is FormatKind.DATE:
        if not isinstance(value, date):
            return _misfit(value, way)
        return _plainly(_day(value, detail, writer.locale), writer)
    if not isinstance(value, Decimal):
        return _misfit(value, way)
    if way is not FormatKind.MONEY and too_large(value.adjusted() + 1, money=False):
        typed = as_text(value)
        return fault_of(Code.NUMBER, said_too_large(f"'{clipped(typed)}'", money=False), typed=typed)
    if way is FormatKind.MONEY:
        return _money(value, detail or writer.currency, writer)
    if way is FormatKind.PERCENT:
        return _plainly(_percent(value, detail, writer.locale), writer)
    return _plainly(_number(value, detail, writer.locale), writer)


def _by_type(value: Cell) -> FormatKind:
    if isinstance(value, Decimal):
        return FormatKind.NUMBER
    return FormatKind.DATE if isinstance(value, date) else FormatKind.TEXT


def _misfit(value: Cell, way: FormatKind) -> Fault:
    typed = as_text(value)
    wanted = _WANTED[way]
    return fault_of(Code.VALUE, f"'{clipped(typed)}' is not {wanted}", typed=typed, wanted=wanted)


_WIDE = Context(prec=400)
"""Room for any figure there can be, so that rounding one never fails and never loses a digit in front."""


@lru_cache(maxsize=64)
def _smallest(currency: str) -> Decimal:
    return Decimal(1).scaleb(-get_currency_precision(currency))


def money_rounded(amount: Decimal, currency: str) -> Decimal:
    """An amount at the digits ISO 4217 gives its currency, a half away from zero; never a negative nothing."""
    rounded = amount.quantize(_smallest(currency), rounding=ROUND_HALF_UP, context=_WIDE)
    return rounded if rounded else abs(rounded)


def _money(amount: Decimal, currency: str, writer: Writer) -> str | Fault:
    rounded = money_rounded(amount, currency)
    if too_large(rounded.adjusted() + 1, money=True):
        typed = as_text(amount)
        return fault_of(Code.NUMBER, said_too_large(f"'{clipped(typed)}'", money=True), typed=typed)
    shape = _shape(currency, writer)
    return _by_cldr(rounded, currency, writer) if shape is None else shape.write(rounded)


def _by_cldr(rounded: Decimal, currency: str, writer: Writer) -> str:
    babel = writer.locale.replace("-", "_")
    text = _plainly(format_currency(rounded, currency, locale=babel), writer)
    if writer.plain_signs and first_beyond(text) is not None:
        # A sign such as the rupee's is not in the 7-bit alphabet; the currency's code says the same.
        text = _plainly(format_currency(rounded, currency, "¤¤ #,##0.00", locale=babel), writer)
    return text


@dataclass(frozen=True, slots=True)
class _Shape:
    """How CLDR writes amounts of one currency: what stands in front and behind, and the marks."""

    front: str
    back: str
    front_below: str
    back_below: str
    marks: dict[int, str]
    decimals: int

    def write(self, rounded: Decimal) -> str:
        below = rounded < 0
        digits = f"{abs(rounded):,.{self.decimals}f}".translate(self.marks)
        return f"{self.front_below if below else self.front}{digits}{self.back_below if below else self.back}"


_PROBES = tuple(
    Decimal(text) for text in ("0", "7", "-7", "1234.56", "-1234.56", "12345678.9", "-98765432.1", "999.99")
)


@lru_cache(maxsize=256)
def _shape(currency: str, writer: Writer) -> _Shape | None:
    """What Babel's own writing of a few amounts shows; None where amounts do not follow from it (groups of two, as in
    India, or other digits), so that each is written by Babel."""
    decimals = get_currency_precision(currency)
    samples = {probe: _by_cldr(money_rounded(probe, currency), currency, writer) for probe in _PROBES}
    ends = [re.fullmatch(r"(\D*)(.*\d)(\D*)", samples[Decimal(sign)]) for sign in ("7", "-7")]
    middle = re.search(r"1(\D?)234(\D?)(\d*)", samples[Decimal("1234.56")] if decimals else "")
    large = re.search(r"12(\D?)345(\D?)678", samples[Decimal("12345678.9")])
    if ends[0] is None or ends[1] is None or large is None or large[1] != large[2]:
        return None
    marks = {ord(","): large[1], ord("."): middle[2] if middle else "."}
    shape = _Shape(ends[0][1], ends[0][3], ends[1][1], ends[1][3], marks, decimals)
    follows = all(shape.write(money_rounded(probe, currency)) == text for probe, text in samples.items())
    return shape if follows else None


def _decimals_of(detail: str) -> int | None:
    return int(detail) if detail else None


def _fixed(value: Decimal, decimals: int | None, most: int = MOST_DECIMALS) -> str:
    """Digits with a point: so many decimals, or those it has, cut to a readable number of them."""
    exponent = value.as_tuple().exponent
    have = -exponent if isinstance(exponent, int) else 0
    if decimals is None and have <= most:
        return format(value, "f")
    wanted = most if decimals is None else decimals
    rounded = value.quantize(Decimal(1).scaleb(-wanted), rounding=ROUND_HALF_UP, context=_WIDE)
    rounded = rounded if rounded else abs(rounded)
    return plain(rounded) if decimals is None else format(rounded, "f")


def _number(value: Decimal, detail: str, locale: str) -> str:
    digits = _fixed(value, _decimals_of(detail))
    return digits.replace(".", _decimal_symbol(locale))


@lru_cache(maxsize=64)
def _decimal_symbol(locale: str) -> str:
    return str(get_decimal_symbol(locale.replace("-", "_")))


def _percent(value: Decimal, detail: str, locale: str) -> str:
    digits = _fixed(value.scaleb(2, _WIDE).normalize(_WIDE), _decimals_of(detail), PERCENT_DECIMALS)
    places = len(digits.partition(".")[2])
    pattern = "#,##0" + ("." + "0" * places if places else "")
    babel = locale.replace("-", "_")
    usual = format_percent(Decimal(0), locale=babel)
    sign = usual.replace(format_percent(Decimal(0), format="0", locale=babel), "")
    amount = format_percent(
        Decimal(digits).scaleb(-2, _WIDE), format=pattern + "%", locale=babel, decimal_quantization=False
    )
    return amount.replace("%", sign) if not usual.startswith("%") else amount


def _day(value: date, detail: str, locale: str) -> str:
    babel = locale.replace("-", "_")
    if detail in {"", *LENGTHS}:
        return format_date(value, format=detail or "medium", locale=babel)
    if detail == "weekday":
        return format_skeleton("yMMMEd", value, locale=babel)
    return day_by_pattern(value, detail, locale)


_PLAIN = str.maketrans(
    {
        "\u00a0": " ",
        "\u202f": " ",
        "\u2009": " ",
        "\u2212": "-",
        "\u200e": None,
        "\u200f": None,
        "\u061c": None,
    }
)


def _plainly(text: str, writer: Writer) -> str:
    return text.translate(_PLAIN) if writer.plain_signs else text


def as_value(value: Cell, wanted: Format | None, currency: str) -> Cell:
    """The value behind a written cell, for a link or a file: money at its digits, other numbers as they are."""
    if isinstance(value, Decimal) and wanted and wanted.kind is FormatKind.MONEY:
        return money_rounded(value, wanted.detail or currency)
    return value


def value_text(value: Cell) -> str:
    """A value as plain text for a link or a file: 186.40, 2026-11-30, TRUE."""
    if isinstance(value, Decimal):
        return _fixed(value, None)
    return as_text(value)
