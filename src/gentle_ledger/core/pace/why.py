"""What a text waits for, and moments and lengths of time, in the words the clerk reads."""

from datetime import date, datetime, timedelta
from functools import lru_cache

from gentle_ledger.core.pace.civil import local, zone_named
from gentle_ledger.core.pace.decide import Pace, Why

_WEEK = 7


def lasting(seconds: float) -> str:
    """A length of time as a clerk says it: "about 9 minutes", "2 h 45 min"."""
    if seconds < 60:
        return f"{max(1, round(seconds))} s"
    minutes = round(seconds / 60)
    if minutes < 60:
        return f"{minutes} min"
    hours, minutes = divmod(minutes, 60)
    if hours < 48:
        return f"{hours} h {minutes:02} min"
    days, hours = divmod(round(seconds / 3600), 24)
    return f"{days} days {hours} h"


def clock_said(minutes: int) -> str:
    """A minute of the day: "9:00"."""
    return f"{minutes // 60}:{minutes % 60:02}"


def cap_said(per_day: tuple[int, ...]) -> str:
    """The most texts a day, as part of a sentence."""
    *first, last = (f"{most:,}" for most in per_day)
    if not first:
        return f"the cap of {last} a day"
    if len(first) == 1:
        return f"the cap of {first[0]} on the first day and {last} on later ones"
    return f"the cap of {', '.join(first)} on the first days and {last} on later ones"


def said(why: Why, pace: Pace) -> str:
    """What is waited for, as a thing: it follows "not sooner because of"."""
    if why is Why.CAP and pace.per_day:
        return cap_said(pace.per_day)
    if why is Why.REST:
        return f"a rest of {lasting(pace.rest)} after {pace.after} texts"
    if why is Why.HOURS and pace.hours:
        return f"the hours from {clock_said(pace.hours.opens)} to {clock_said(pace.hours.closes)}"
    return _PLAIN[why]


_PLAIN = {
    Why.GAP: "the pace",
    Why.REST: "a rest",
    Why.SLOWED: "the carrier's wish for fewer texts",
    Why.CAP: "the cap of the day",
    Why.HOURS: "the hours",
    Why.MOMENT: "its own moment",
    Why.START: "the moment the round begins",
    Why.CARRIER: "the carrier's absence",
    Why.SETTLING: "the question what became of a first try",
    Why.PAUSED: "the pause of the round",
}


def moment_said(at: float, now: float, office: str) -> str:
    """A moment to come as a clerk says it, by the clocks of the office: "14:10", "Thursday 14:10", "Mon 7 Dec 9:00"."""
    then, here, days = _apart(at, now, office)
    clock = clock_said(then.hour * 60 + then.minute)
    if days == 0:
        return clock
    if days == 1:
        return f"tomorrow {clock}"
    if 1 < days < _WEEK:
        return f"{then:%A} {clock}"
    return f"{day_said(then)}{'' if then.year == here.year else f' {then.year}'} {clock}"


def moment_short(at: float, now: float, office: str) -> str:
    """The same where there is little room: "14:10", "Thu 14:10", "7 Dec 9:00"."""
    then, _, days = _apart(at, now, office)
    clock = clock_said(then.hour * 60 + then.minute)
    if days == 0:
        return clock
    return f"{then:%a} {clock}" if 0 < days < _WEEK else f"{then.day} {then:%b} {clock}"


def _apart(at: float, now: float, office: str) -> tuple[datetime, datetime, int]:
    """Two moments by the clocks of the office, and how many civil days the first is after the second."""
    zone = zone_named(office)
    then, here = local(at, zone), local(now, zone)
    return then, here, (then.date() - here.date()).days


def place_of_zone(zone: str) -> str:
    """The place that a zone is called by: "Halifax" for America/Halifax."""
    return zone.rsplit("/", 1)[-1].replace("_", " ")


def iso_said(at: float, office: str) -> str:
    """A moment as it stands in a file: ISO 8601 with the offset of a zone, in whole seconds where it has no others."""
    slot = _slot(office, int(at // _SLOT))
    within = at - slot[1]
    if slot[0] and within == int(within):
        minute, second = divmod(int(within), 60)
        return f"{slot[0]}{slot[2] + minute:02}:{second:02}{slot[3]}"
    found: datetime = local(round(at, 3), zone_named(office))
    return found.isoformat(timespec="milliseconds" if found.microsecond else "seconds")


_SLOT = 900


@lru_cache(maxsize=4096)
def _slot(office: str, number: int) -> tuple[str, float, int, str]:
    """A quarter of an hour as its moments are written: day and hour, its first instant and minute, and the offset.

    Day and hour are blank where its moments are not written alike, as where the clocks change within it.
    """
    start, zone = float(number * _SLOT), zone_named(office)
    first, last = local(start, zone), local(start + _SLOT - 1, zone)
    alike = first.utcoffset() == last.utcoffset() and first.second == 0 and first.hour == last.hour
    written = first.isoformat(timespec="seconds")
    return (written[:14] if alike else ""), start, first.minute, written[19:]


def day_said(day: date) -> str:
    """A civil day: "Tue 1 Dec"."""
    return f"{day:%a} {day.day} {day:%b}"


FOUR_WEEKS = timedelta(weeks=4).total_seconds()
