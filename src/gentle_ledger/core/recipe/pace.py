"""The pace in a recipe: how fast texts leave, when, in which order, and how many a day."""

import re
from datetime import datetime, time
from enum import StrEnum
from typing import Annotated, Any

from pydantic import AfterValidator, BeforeValidator, ConfigDict, Field, field_validator, model_validator

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.pace import decide as pacing
from gentle_ledger.core.pace.civil import instant_of, zone_named
from gentle_ledger.core.pace.hours import Hours, WhoseClocks, holidays_of
from gentle_ledger.core.recipe.part import RecipePart


class Weekday(StrEnum):
    """A day of the week, as a recipe has it."""

    MON = "Mon"
    TUE = "Tue"
    WED = "Wed"
    THU = "Thu"
    FRI = "Fri"
    SAT = "Sat"
    SUN = "Sun"


_TIME_OF_DAY = re.compile(r"(?:([01]?\d|2[0-3]):([0-5]\d)(?::00)?|(24):(00))")
ColumnName = Annotated[str, Field(min_length=1)]


def _time_of_day(value: Any) -> Any:
    if isinstance(value, time):
        value = value.isoformat()
    match = _TIME_OF_DAY.fullmatch(value.strip()) if isinstance(value, str) else None
    if match is None:
        raise ValueError("a time of day is hours and minutes, such as 09:00")
    hour, minute = match[1] or match[3], match[2] or match[4]
    return f"{int(hour):02}:{minute}"


TimeOfDay = Annotated[str, BeforeValidator(_time_of_day)]


def _minutes(clock: str) -> int:
    hour, minute = clock.split(":")
    return int(hour) * 60 + int(minute)


def _holidays(code: str) -> str:
    holidays_of(code)
    return code


def _one_or_more(value: Any) -> Any:
    return (value,) if isinstance(value, int) and not isinstance(value, bool) else value


def _with_time(value: Any) -> Any:
    """A day alone would be its midnight, which nobody means."""
    timed = isinstance(value, datetime) or (isinstance(value, str) and ":" in value)
    if not timed:
        raise ValueError("it is a day with a time, such as 2026-12-01T09:00:00")
    return value


def _office_time(value: datetime) -> datetime:
    if value.tzinfo is not None:
        raise ValueError("it is told by the clocks where the office is: leave the offset out")
    return value


class HoursSettings(RecipePart):
    """The hours within which texts may leave.

    Attributes:
        opens, closes: times of day ("from" and "to" in a recipe); the first is inside, the second is not.
        days: the days of the week on which there are any.
        where: whose clocks tell them.
        holidays: whose public holidays are kept, by an ISO 3166-2 code such as "CA-NS"; None for none.
    """

    model_config = ConfigDict(
        extra="forbid", frozen=True, serialize_by_alias=True, validate_by_name=True, validate_by_alias=True
    )

    opens: TimeOfDay = Field(default="09:00", alias="from")
    closes: TimeOfDay = Field(default="17:00", alias="to")
    days: tuple[Weekday, ...] = Field(default=tuple(Weekday), min_length=1, max_length=7)
    where: WhoseClocks = WhoseClocks.RECIPIENT
    holidays: Annotated[str, AfterValidator(_holidays)] | None = None

    @field_validator("days")
    @classmethod
    def _in_order(cls, value: tuple[Weekday, ...]) -> tuple[Weekday, ...]:
        return tuple(day for day in Weekday if day in value)

    @model_validator(mode="after")
    def _come(self) -> "HoursSettings":
        if _minutes(self.opens) >= _minutes(self.closes):
            raise ValueError(f"hours from {self.opens} to {self.closes} never come: they have to begin before they end")
        return self

    def as_hours(self) -> Hours:
        """The hours as the rules of sending have them."""
        days = frozenset(list(Weekday).index(day) for day in self.days)
        return Hours(_minutes(self.opens), _minutes(self.closes), days, self.where, self.holidays or "")


class PaceSettings(RecipePart):
    """How fast texts leave, when, and how many a day; see `docs/pace.md`.

    Attributes:
        every, give_or_take: one text every so many seconds, give or take so many.
        after, rest: after so many texts a rest of so many seconds; 0 texts for none.
        per_day: the most texts of a sending number on the first day of its use, the second, and so on; the last stands
            for all later days. Empty for no such cap.
        start: when the round begins, by the clocks where the office is; None for when Send is pressed.
        at: a column of days, or days and times: each row not before its own moment.
        zone: a column that names the recipient's zone (IANA), where the number does not tell it.
        late: minutes after its moment from which on a row is left out instead; None for never.
        order: the column by whose values the rows leave, the smallest first; with a "-" in front the largest; None for
            the sheet's own order, and "shuffled" for none.
        hours: within which texts may leave; None for all hours.
        patience: how many minutes a round waits for a carrier that is away until it pauses and asks.
    """

    every: float = Field(default=12.0, ge=pacing.SHORTEST_GAP, le=pacing.LONGEST_GAP, allow_inf_nan=False)
    give_or_take: float = Field(default=4.0, ge=0, le=pacing.LONGEST_GAP, allow_inf_nan=False)
    after: int = Field(default=0, ge=0, le=10_000)
    rest: float = Field(default=300.0, ge=0, le=24 * 3600, allow_inf_nan=False)
    per_day: Annotated[tuple[Annotated[int, Field(ge=1, le=1_000_000)], ...], BeforeValidator(_one_or_more)] = Field(
        default=(), max_length=60
    )
    start: Annotated[datetime, BeforeValidator(_with_time), AfterValidator(_office_time)] | None = None
    at: ColumnName | None = None
    zone: ColumnName | None = None
    late: float | None = Field(default=None, ge=0, le=366 * 24 * 60, allow_inf_nan=False)
    order: ColumnName | None = None
    hours: HoursSettings | None = None
    patience: float = Field(default=60.0, ge=1, le=7 * 24 * 60, allow_inf_nan=False)

    @model_validator(mode="before")
    @classmethod
    def _calm_default(cls, data: Any) -> Any:
        """A pace that names only its gap keeps to it: the default 4 s would not fit a gap of 3 s."""
        if isinstance(data, dict) and "every" in data and "give_or_take" not in data:
            return {**data, "give_or_take": 0.0}
        return data

    @model_validator(mode="after")
    def _fits(self) -> "PaceSettings":
        if self.give_or_take > self.every:
            raise ValueError("give_or_take must not be longer than every")
        if self.after and not self.rest:
            raise ValueError("after so many texts there is a rest: say how long it is")
        if self.late is not None and self.at is None:
            raise ValueError('a row is late by its own moment: say with "at" which column has it')
        return self

    def as_pace(self, office: str) -> pacing.Pace:
        """The pace as the rules of sending have it, where the office is in that zone (IANA)."""
        return pacing.Pace(
            every=self.every,
            give_or_take=self.give_or_take,
            after=self.after,
            rest=self.rest if self.after else 0.0,
            per_day=self.per_day,
            start=None if self.start is None else instant_of(self.start, zone_named(office)),
            hours=self.hours.as_hours() if self.hours else None,
            late=None if self.late is None else self.late * 60.0,
            office=office,
        )

    def at_once(self) -> "PaceSettings":
        """The same gap and rests at any hour of any day, with no cap: as a rehearsal goes."""
        plain = {"per_day": (), "start": None, "at": None, "zone": None, "late": None, "hours": None}
        return self.model_copy(update=plain)

    def renamed(self, column: str, name: str) -> "PaceSettings":
        """The same where a column has another name."""
        key = column_key(column)
        changes: dict[str, Any] = {
            field: name for field in ("at", "zone") if column_key(getattr(self, field) or "") == key
        }
        if self.order and column_key(self.order) == key:
            changes["order"] = name
        elif self.order and column_key(column_of_order(self.order)) == key:
            changes["order"] = f"-{name}"
        return self.model_copy(update=changes)

    def without(self, column: str) -> "PaceSettings":
        """The same where a column is not there any more."""
        key = column_key(column)
        changes: dict[str, Any] = {
            field: None for field in ("at", "zone") if column_key(getattr(self, field) or "") == key
        }
        if "at" in changes:
            changes["late"] = None
        if self.order and key in {column_key(self.order), column_key(column_of_order(self.order))}:
            changes["order"] = None
        return self.model_copy(update=changes)


BY_ROW = ("at", "zone", "hours")
"""The settings of a pace on which it depends whether it can be said when a row may leave."""
SHUFFLED = "shuffled"
"""The order that is none."""


def column_of_order(order: str) -> str:
    """The column by which an order goes, where no column has the order's own name; "" for a shuffled one."""
    return "" if order == SHUFFLED else order.removeprefix("-")
