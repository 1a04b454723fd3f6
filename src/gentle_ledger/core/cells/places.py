"""Countries, currencies and ways of writing by name, as a clerk looks for them (CLDR names in English)."""

from collections.abc import Iterable
from functools import lru_cache

from babel import Locale
from babel.localedata import locale_identifiers
from babel.numbers import get_currency_name, get_territory_currencies

from gentle_ledger.core.cells.phones import country_name, known_regions

_OF_PEOPLE = {
    "AU": "Australian", "AT": "Austrian", "BE": "Belgian", "BR": "Brazilian", "CA": "Canadian", "CH": "Swiss",
    "DE": "German", "DK": "Danish", "ES": "Spanish", "FI": "Finnish", "FR": "French", "GB": "British", "IE": "Irish",
    "IN": "Indian", "IT": "Italian", "JP": "Japanese", "MX": "Mexican", "NL": "Dutch", "NO": "Norwegian",
    "NZ": "New Zealand", "PL": "Polish", "PT": "Portuguese", "SE": "Swedish", "US": "US", "ZA": "South African",
}  # fmt: skip
"""What a country's things are called, where a name of ours is better than "of"; from memory, common English."""


def numbers_of(region: str) -> str:
    """`numbers_of("CA")` is "Canadian phone numbers"."""
    word = _OF_PEOPLE.get(region)
    return f"{word} phone numbers" if word else f"phone numbers of {country_name(region)}"


def currency_name(code: str) -> str:
    """`currency_name("CAD")` is "Canadian dollars"."""
    return get_currency_name(code, count=2, locale="en")


@lru_cache(maxsize=1)
def regions() -> list[tuple[str, str]]:
    """The countries whose numbering plan is known, by name: (code of ISO 3166-1, name)."""
    return _by_name((code, country_name(code)) for code in known_regions())


@lru_cache(maxsize=1)
def currencies() -> list[tuple[str, str]]:
    """The currencies that are in use somewhere, by name: (code of ISO 4217, name with the code)."""
    used = {code for region in known_regions() for code in get_territory_currencies(region)}
    return _by_name((code, f"{get_currency_name(code, locale='en')} ({code})") for code in used)


@lru_cache(maxsize=1)
def locales() -> list[tuple[str, str]]:
    """The ways of writing of a language in a country, by name: (BCP 47 tag, name)."""
    names = Locale("en")
    found = []
    for identifier in locale_identifiers():
        language, *parts = identifier.split("_")
        words = [names.territories.get(part) or names.scripts.get(part) for part in parts]
        if language in names.languages and parts and all(words):
            found.append((identifier.replace("_", "-"), f"{names.languages[language]} ({', '.join(map(str, words))})"))
    return _by_name(found)


def _by_name(found: Iterable[tuple[str, str]]) -> list[tuple[str, str]]:
    return sorted(found, key=lambda pair: pair[1])
