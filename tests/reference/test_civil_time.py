"""Hours and days by civil time, against Python's own `zoneinfo` and against published figures."""

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import holidays
import phonenumbers
import pytest
from hypothesis import given
from hypothesis import strategies as st
from phonenumbers import timezone

from gentle_ledger.core.cells.zones import zones_of
from gentle_ledger.core.pace.civil import day_begins, instant_of, known_zone, zone_named
from gentle_ledger.core.pace.hours import Hours, NoSuchHolidays, is_holiday

# Changes of clocks by the IANA time zone database (2026 and 2027): the first instant with the new offset in UTC, and
# what the clocks show then. Lord Howe moves by half an hour, Chatham is at three quarters of one, St. John's at a half.
CHANGES = [
    ("America/Halifax", "2026-11-01T05:00:00", "01:00"),
    ("America/Halifax", "2027-03-14T06:00:00", "03:00"),
    ("America/St_Johns", "2026-11-01T04:30:00", "01:00"),
    ("America/St_Johns", "2027-03-14T05:30:00", "03:00"),
    ("Pacific/Chatham", "2026-09-26T14:00:00", "03:45"),
    ("Pacific/Chatham", "2027-04-03T14:00:00", "02:45"),
    ("Australia/Lord_Howe", "2026-10-03T15:30:00", "02:30"),
    ("Australia/Lord_Howe", "2027-04-03T15:00:00", "01:30"),
]
HOURS = [(0, 24 * 60), (60, 90), (2 * 60, 3 * 60), (2 * 60 + 15, 2 * 60 + 45), (90, 5 * 60), (9 * 60, 17 * 60)]


@pytest.mark.parametrize(("zone", "changes", "shows"), CHANGES)
def test_the_tables_have_the_published_changes(zone, changes, shows):
    at = datetime.fromisoformat(changes).replace(tzinfo=UTC)
    before, after = (moment.astimezone(zone_named(zone)) for moment in (at - timedelta(seconds=1), at))
    assert f"{after:%H:%M}" == shows
    assert before.utcoffset() != after.utcoffset()


@pytest.mark.parametrize(("opens", "closes"), HOURS)
@pytest.mark.parametrize(("zone", "changes"), [change[:2] for change in CHANGES])
def test_in_a_night_of_changed_clocks_each_minute_is_inside_just_when_the_clocks_say_so(zone, changes, opens, closes):
    """Minute by minute, from a day before the change to a day after it, as `zoneinfo` shows the time."""
    hours, clocks = Hours(opens, closes), ZoneInfo(zone)
    first = datetime.fromisoformat(changes).replace(tzinfo=UTC).timestamp() - 24 * 3600
    for minute in range(2 * 24 * 60):
        at = first + minute * 60
        shown = datetime.fromtimestamp(at, clocks)
        window = hours.window([zone], at)
        assert window is not None
        assert (window.opens <= at < window.closes) == (opens <= shown.hour * 60 + shown.minute < closes), shown
        if at < window.opens:
            opened = datetime.fromtimestamp(window.opens, clocks)
            assert opens <= opened.hour * 60 + opened.minute < closes, "and where it opens is inside"


@given(
    st.sampled_from(["America/Halifax", "Pacific/Chatham", "Asia/Kathmandu", "Europe/London", "Asia/Beirut"]),
    st.datetimes(datetime.fromisoformat("2026-01-01"), datetime.fromisoformat("2028-01-01")),
)
def test_a_moment_of_civil_time_is_the_instant_that_zoneinfo_says(zone, moment):
    assert instant_of(moment, zone_named(zone)) == moment.replace(tzinfo=ZoneInfo(zone)).timestamp()


def test_a_day_begins_where_its_first_minute_is():
    # Beirut puts its clocks ahead at midnight: 2026-03-29 begins at 01:00 (IANA, Zone Asia/Beirut, Rule Lebanon).
    assert datetime.fromtimestamp(day_begins(date(2026, 3, 29), zone_named("Asia/Beirut")), UTC).hour == 22
    # Samoa left 2011-12-30 out altogether (IANA, Zone Pacific/Apia): the next day begins in its place.
    apia = zone_named("Pacific/Apia")
    assert day_begins(date(2011, 12, 30), apia) == day_begins(date(2011, 12, 31), apia)


# 47 CFR 64.1200(c)(1): no solicitation "before the hour of 8 a.m. or after 9 p.m. (local time at the called party's
# location)". One example of hours; that 9 p.m. itself is outside is our own reading, the stricter one.
CALLS = [
    ("+12125550100", "2026-11-24T12:59:59+00:00", False, "a second before eight in New York"),
    ("+12125550100", "2026-11-24T13:00:00+00:00", True, "eight in New York"),
    ("+18085550100", "2026-11-24T13:00:00+00:00", False, "three in the morning in Honolulu"),
    ("+18085550100", "2026-11-24T18:00:00+00:00", True, "eight in Honolulu"),
    ("+12125550100", "2026-11-25T01:59:59+00:00", True, "a second before nine in the evening"),
    ("+12125550100", "2026-11-25T02:00:00+00:00", False, "nine in the evening"),
    ("+12125550100", "2026-07-01T12:00:00+00:00", True, "eight in New York in summer"),
    ("+17095550100", "2026-11-24T11:30:00+00:00", False, "eight in St. John's, and not yet in Halifax"),
]


@pytest.mark.parametrize(("number", "at", "inside", "why"), CALLS, ids=[case[3] for case in CALLS])
def test_hours_of_calling_by_a_published_rule(number, at, inside, why):
    moment = datetime.fromisoformat(at).timestamp()
    window = Hours(8 * 60, 21 * 60).window(zones_of(number), moment)
    assert (window.opens <= moment) == inside


# Nova Scotia's days off by its Labour Standards Code, as its government lists them for 2026 (from memory): Remembrance
# Day is a day of its own by another act, and is among those of the package as an optional one.
NOVA_SCOTIA = ["2026-01-01", "2026-02-16", "2026-04-03", "2026-07-01", "2026-09-07", "2026-12-25"]


def test_the_holidays_that_are_kept_are_those_of_the_place():
    kept = {f"2026-{day:%m-%d}" for day in _days(2026) if is_holiday(day, "CA-NS")}
    assert set(NOVA_SCOTIA) <= kept
    assert kept == {f"{day}" for day in holidays.country_holidays("CA", subdiv="NS", years=2026) if day.year == 2026}
    assert is_holiday(date(2026, 6, 24), "CA-QC")
    assert not is_holiday(date(2026, 6, 24), "CA-NS"), "what is a holiday elsewhere is none here"
    for code in ("CA-XX", "XX", "", "ca-ns-1", "../etc"):
        with pytest.raises(NoSuchHolidays):
            is_holiday(date(2026, 1, 1), code)


def _days(year):
    return [date(year, 1, 1) + timedelta(days=n) for n in range(365)]


@given(
    st.sampled_from(
        ["1902", "1709", "1867", "1604", "1416", "61 4 91 570 1", "46 70 174 06", "49 171 39200", "33 6 12"]
    ),
    st.integers(0, 9_999_999),
)
def test_the_zones_of_a_number_are_those_that_the_numbering_plans_say(start, rest):
    """Asked for the block of a number, the answer is that for the number itself."""
    digits = start.replace(" ", "")
    e164 = f"+{digits}{rest:07}"[: 12 if digits[0] == "1" or digits[:2] in {"61", "46", "33"} else 13]
    number = phonenumbers.parse(e164)
    if phonenumbers.is_valid_number(number):
        found = timezone.time_zones_for_number(number)
        assert zones_of(e164) == (() if "Etc/Unknown" in found else tuple(found))


def test_zones_are_known_by_their_names_alone():
    assert known_zone(" america/halifax ") == "America/Halifax"
    assert known_zone("America/St Johns") == "America/St_Johns"
    for name in ("", "Halifax", "AST", "../../etc/passwd", "America/", "UTC+4"):
        assert known_zone(name) is None or known_zone(name) in {"UTC"}
        if known_zone(name) is None:
            with pytest.raises(KeyError):
                zone_named(name)
