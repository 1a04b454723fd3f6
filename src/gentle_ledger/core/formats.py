"""Writing a value in a text: money and dates by CLDR, through Babel."""

from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from functools import lru_cache

from babel import Locale, UnknownLocaleError
from babel.dates import format_date
from babel.numbers import format_currency, get_currency_precision, get_decimal_symbol, list_currencies

# No-break spaces would turn the whole text to the larger alphabet; on a handset they look like plain ones.
_SPACES = str.maketrans({"\u00a0": " ", "\u202f": " ", "\u2009": " "})


def known_locale(tag: str) -> bool:
    """True for a BCP 47 tag that CLDR has data for, such as "en-CA"."""
    try:
        Locale.parse(tag, sep="-")
    except (UnknownLocaleError, ValueError, TypeError):
        return False
    return True


def known_currency(code: str) -> bool:
    """True for an ISO 4217 code, such as "CAD"."""
    return code in _currencies()


@lru_cache(maxsize=1)
def _currencies() -> frozenset[str]:
    return frozenset(list_currencies())


@lru_cache(maxsize=65_536)
def money(amount: Decimal, currency: str, locale: str) -> str:
    """An amount with its sign, rounded half away from zero to the digits ISO 4217 gives the currency.

    Never "-$0.00": what rounds to nothing is written without a sign.
    """
    rounded = amount.quantize(Decimal(1).scaleb(-get_currency_precision(currency)), rounding=ROUND_HALF_UP)
    if not rounded:
        rounded = abs(rounded)
    return format_currency(rounded, currency, locale=locale.replace("-", "_")).translate(_SPACES)


@lru_cache(maxsize=16_384)
def day(value: date, locale: str) -> str:
    """A date in CLDR's medium form: "Nov 30, 2026" in en-CA."""
    return format_date(value, format="medium", locale=locale.replace("-", "_")).translate(_SPACES)


def number(value: Decimal, locale: str) -> str:
    """A number with just the digits it has, and the locale's decimal mark; no group marks."""
    return format(value, "f").replace(".", get_decimal_symbol(locale.replace("-", "_")))
