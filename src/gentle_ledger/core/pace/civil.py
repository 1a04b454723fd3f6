"""Civil time: zones by their names, and which instants a stretch of a civil day is, whatever its clocks do.

Instants are POSIX seconds. The zones are those of the `tzdata` package (the IANA time zone database), and not this
machine's own, which may be older: two machines must forecast the same.
"""

from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta, timezone
from functools import lru_cache
from importlib import resources
from zoneinfo import ZoneInfo

MINUTES_A_DAY = 24 * 60
_HOUR = 3600.0
_FARTHEST = 15 * _HOUR
"""No zone is as far from UTC: the greatest offsets are 14 hours ahead and 12 behind."""

_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


@lru_cache
def zone_names() -> frozenset[str]:
    """The names of all zones of the IANA database, links of earlier names included."""
    return frozenset((resources.files("tzdata") / "zones").read_text().split())


@lru_cache
def zone_named(name: str) -> ZoneInfo:
    """The zone with that IANA name. Raises KeyError where there is none."""
    if name not in zone_names():
        raise KeyError(name)
    with (resources.files("tzdata") / "zoneinfo").joinpath(*name.split("/")).open("rb") as data:
        return ZoneInfo.from_file(data, key=name)


def known_zone(name: str) -> str | None:
    """The IANA name that is meant by a text in any case; None for none."""
    return _by_key().get(name.strip().casefold().replace(" ", "_"))


@lru_cache
def _by_key() -> dict[str, str]:
    return {name.casefold(): name for name in zone_names()}


def local(at: float, zone: ZoneInfo, *, fixed: bool = False) -> datetime:
    """An instant as the clocks of a zone show it; with `fixed` it has the offset of then and no zone."""
    found = (_EPOCH + timedelta(seconds=at)).astimezone(zone)
    return found.replace(tzinfo=timezone(found.utcoffset() or timedelta())) if fixed else found


def offset_at(at: float, zone: ZoneInfo) -> float:
    """Seconds by which a zone's clocks are ahead of UTC at an instant."""
    found = local(at, zone).utcoffset()
    return found.total_seconds() if found else 0.0


def _naive(day: date, minutes: int) -> float:
    """The POSIX seconds that a minute of a day would be in UTC."""
    return (day.toordinal() - _EPOCH.toordinal()) * 24 * _HOUR + minutes * 60.0


@lru_cache(maxsize=8192)
def _pieces(day: date, zone: ZoneInfo) -> tuple[tuple[float, float, float], ...]:
    """The instants around a civil day, split where its clocks change: from, to, and the offset between them."""
    start, end = _naive(day, 0) - _FARTHEST, _naive(day, MINUTES_A_DAY) + _FARTHEST
    before, after = offset_at(start, zone), offset_at(end, zone)
    if before == after:
        return ((start, end, before),)
    low, high = start, end
    # Clocks change on whole seconds.
    while high - low > 1.0:
        middle = float(int((low + high) / 2))
        low, high = (middle, high) if offset_at(middle, zone) == before else (low, middle)
    return (start, high, before), (high, end, after)


@lru_cache(maxsize=65536)
def stretch_of_day(day: date, zone: ZoneInfo, start: int, end: int) -> tuple[tuple[float, float], ...]:
    """The instants at which the clocks of a zone show that day and a minute from `start` to, and without, `end`.

    One stretch on nearly all days. In a night of changed clocks minutes that are left out are in none, and those that
    come twice are in two. Each stretch is from an instant, which is in it, to one that is not.
    """
    found: list[tuple[float, float]] = []
    for since, until, offset in _pieces(day, zone):
        begins = max(since, _naive(day, start) - offset)
        ends = min(until, _naive(day, end) - offset)
        if begins >= ends:
            continue
        if found and found[-1][1] == begins:
            found[-1] = (found[-1][0], ends)
        else:
            found.append((begins, ends))
    return tuple(found)


def day_begins(day: date, zone: ZoneInfo) -> float:
    """The first instant of a civil day; of one that a zone left out altogether, that of the next day."""
    for each in days_from(day):
        if stretches := stretch_of_day(each, zone, 0, MINUTES_A_DAY):
            return stretches[0][0]
    raise OverflowError("there is no such day")


def days_from(day: date) -> Iterator[date]:
    """That day and the days after it, up to the last that the calendar has."""
    for ordinal in range(day.toordinal(), date.max.toordinal()):
        yield date.fromordinal(ordinal)


def instant_of(moment: datetime, zone: ZoneInfo) -> float:
    """The instant at which the clocks of a zone show a moment without an offset.

    A moment that comes twice is the first of both; one that is left out is as much later as the clocks were put ahead
    (PEP 495, `fold` 0).
    """
    return moment.replace(tzinfo=zone, fold=0).timestamp()
