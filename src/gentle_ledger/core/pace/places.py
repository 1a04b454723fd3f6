"""The places whose public holidays are known, for choosing among them."""

from functools import lru_cache

from gentle_ledger.core.pace.hours import NoSuchHolidays, holidays_of


@lru_cache
def holiday_places(country: str) -> tuple[tuple[str, str], ...]:
    """The parts of a country (ISO 3166-1) with holidays of their own: ISO 3166-2 code and name, the country first.

    () where none are known. The names are those of the `holidays` package, the first it has for each.
    """
    try:
        whole = holidays_of(country)
    except NoSuchHolidays:
        return ()
    names: dict[str, str] = {}
    for name, part in whole.subdivisions_aliases.items():
        names.setdefault(part, name)
    parts = ((f"{country}-{part}", names.get(part, part)) for part in whole.subdivisions)
    return ((country, "the whole country"), *sorted(parts, key=lambda pair: pair[1]))
