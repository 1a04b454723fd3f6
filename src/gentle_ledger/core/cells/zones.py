"""The time zones that a phone number can be in, by the numbering plans that `phonenumbers` carries."""

import phonenumbers
from phonenumbers import timezone

_TOLD_BY = 9
"""Characters of an E.164 number, its plus included, that tell its zones: to the exchange of a North American number."""
_MOST_REMEMBERED = 100_000
_UNKNOWN: str = timezone.UNKNOWN_TIMEZONE
_known: dict[tuple[str, int], tuple[str, ...]] = {}


def zones_of(e164: str) -> tuple[str, ...]:
    """The IANA names of the zones that a valid number can be in, in their order; () where nobody can say.

    Numbers of one block are in the same zones, so that one of them is looked up.
    """
    key = (e164[:_TOLD_BY], len(e164))
    found = _known.get(key)
    if found is None:
        if len(_known) >= _MOST_REMEMBERED:
            _known.clear()
        found = _known[key] = _looked_up(e164)
    return found


def _looked_up(e164: str) -> tuple[str, ...]:
    try:
        zones = timezone.time_zones_for_number(phonenumbers.parse(e164))
    except phonenumbers.NumberParseException:
        return ()
    return () if _UNKNOWN in zones else tuple(zones)
