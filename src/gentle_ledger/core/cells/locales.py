"""Which locales and currencies there are: CLDR and ISO 4217, through Babel."""

from functools import lru_cache

from babel import Locale, UnknownLocaleError
from babel.numbers import list_currencies


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
