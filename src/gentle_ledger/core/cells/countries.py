"""Countries as a column names them: ISO 3166-1 codes, or names in any language that CLDR has."""

import pickle
from functools import lru_cache
from pathlib import Path

from babel import Locale, localedata
from babel.core import get_global

from gentle_ledger.core.cells.cell import Cell, as_written
from gentle_ledger.core.cells.invisible import compared, without_accents
from gentle_ledger.core.cells.phones import known_regions

# What people write for names that CLDR has in full; common practice, no source.
_ALSO = {
    "united states of america": "US",
    "u.s.a": "US",
    "u.s": "US",
    "america": "US",
    "u.k": "GB",
    "great britain": "GB",
    "england": "GB",
    "scotland": "GB",
    "wales": "GB",
    "northern ireland": "GB",
    "holland": "NL",
}


def country_in(cell: Cell, locale: str) -> str | None:
    """The ISO 3166-1 code (two letters) of the country that a cell names, or None for none with telephone numbers.

    The round's language and English come first; a name that means two countries in two other languages is none.
    """
    key = compared(as_written(cell)).removesuffix(".")
    found = _known(locale).get(key)
    if found is not None or not any(character.isalpha() for character in key):
        return found
    return _in_any_language().get(key) or _in_any_language().get(without_accents(key))


@lru_cache(maxsize=16)
def _known(locale: str) -> dict[str, str]:
    there = known_regions()
    found = dict(_ALSO)
    for alias, codes in get_global("territory_aliases").items():
        if alias.isalpha() and len(codes) == 1:
            found[alias.casefold()] = codes[0]
    for tag in (locale.replace("-", "_"), "en"):
        found |= {compared(name): code for code, name in Locale.parse(tag).territories.items() if code.isalpha()}
    found |= {code.casefold(): code for code in there}
    return {name: code for name, code in found.items() if code in there}


_TWO_COUNTRIES = "congo"
"""Both are called so for short, where CLDR has the short name for one of them alone."""


@lru_cache(maxsize=1)
def _in_any_language() -> dict[str, str]:
    """Countries by their names in all languages, for the rare cell that has one of another; takes most of a second.

    Babel's own files are read, as it would keep all the rest of them for good: a hundred megabytes.
    """
    there = known_regions()
    found: dict[str, str] = {}
    twice: set[str] = set()
    for tag in localedata.locale_identifiers():
        with Path(localedata.resolve_locale_filename(tag)).open("rb") as data:
            names = pickle.load(data).get("territories", {})
        for code, name in names.items():
            if code in there:
                for key in {compared(name), without_accents(compared(name))}:
                    if found.setdefault(key, code) != code:
                        twice.add(key)
    return {name: code for name, code in found.items() if name not in twice and name != _TWO_COUNTRIES}
