"""Countries as a column names them: ISO 3166-1 codes, or names in English and the round's language (CLDR)."""

from functools import lru_cache

from babel import Locale
from babel.core import get_global

from gentle_ledger.core.cells.cell import Cell, as_written
from gentle_ledger.core.cells.invisible import compared
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
    """The ISO 3166-1 code (two letters) of the country that a cell names, or None for none with telephone numbers."""
    key = compared(as_written(cell)).removesuffix(".")
    return _known(locale).get(key)


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
