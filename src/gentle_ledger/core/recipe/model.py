"""A round's set-up as one model, to and from TOML."""

import re
from collections.abc import Iterable
from datetime import date, datetime, time
from decimal import Decimal
from enum import StrEnum
from typing import Annotated, Any

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    field_validator,
    model_validator,
)

from gentle_ledger.core.cells.cell import as_written, column_key
from gentle_ledger.core.cells.locales import known_currency, known_locale
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.phones import known_regions
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.pace import decide as pacing
from gentle_ledger.core.pace.civil import instant_of, zone_named
from gentle_ledger.core.pace.hours import Hours, WhoseClocks, holidays_of
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.format import format_from


def _region(value: str) -> str:
    if value not in known_regions():
        raise ValueError(f'"{clipped(value)}" is not an ISO 3166-1 country code such as CA')
    return value


def _currency(value: str) -> str:
    if not known_currency(value):
        raise ValueError(f'"{clipped(value)}" is not an ISO 4217 currency code such as CAD')
    return value


def _locale(value: str) -> str:
    if not known_locale(value):
        raise ValueError(f'"{clipped(value)}" is not a locale CLDR knows, such as en-CA')
    return value


Region = Annotated[str, AfterValidator(_region)]
Currency = Annotated[str, AfterValidator(_currency)]
LocaleTag = Annotated[str, AfterValidator(_locale)]


MOST_CHARACTERS = 10_000
"""Characters a wording, a formula or any other entry of a recipe may have: some 65 parts of a text."""


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=MOST_CHARACTERS)


def _format(value: str) -> str:
    return str(format_from(value))


def _entry(value: Any) -> Any:
    """A number, a day or true and false, as TOML has them, as the text they are typed as."""
    if isinstance(value, (Decimal, int, date)):
        return as_written(Decimal(value) if isinstance(value, int) and not isinstance(value, bool) else value)
    return value


def _one_line_end(value: str) -> str:
    return value.replace("\r\n", "\n").replace("\r", "\n")


Wording = Annotated[str, AfterValidator(_one_line_end)]
FormatText = Annotated[str, AfterValidator(_format)]
Lookup = Annotated[dict[str, Annotated[str, BeforeValidator(_entry)]], Field(max_length=1_000)]


class ColumnSettings(_Part):
    """What the clerk set for one column.

    Attributes:
        role: when the recognised one is wrong.
        reading: how its days or its decimal marks are to be taken, where the column itself leaves doubt.
        format: how its values are written, such as "money" or "date long"; see `core.recipe.format`.
        fallback: what fills its blanks.
        formula: makes it a computed column; a formula over the row's other columns.
        template: makes it a computed column as well; an RFC 6570 URI Template over the row's other columns.
    """

    role: Role | None = None
    reading: Order | None = None
    format: FormatText | None = None
    fallback: str | None = None
    formula: str | None = None
    template: str | None = None

    @property
    def computed(self) -> bool:
        """Whether the column is computed."""
        return self.formula is not None or self.template is not None

    @model_validator(mode="after")
    def _one_source(self) -> "ColumnSettings":
        if self.formula is not None and self.template is not None:
            raise ValueError("a column has a formula or a template, not both")
        if self.template is not None and self.role not in {None, Role.LINK}:
            raise ValueError(f"a column with a template is a link, not a {self.role}")
        return self


class LeaveOutRule(_Part):
    """Rows for which the formula `when` is true are left out, with the `reason`."""

    when: str
    reason: str = Field(min_length=1, max_length=200)


REST = "all the rest"
"""What the plain wording is called beside those that have a condition; none of them may take its name."""


class ConditionalWording(_Part):
    """A wording for the rows for which the formula `when` is true, unless an earlier one is theirs."""

    name: str = Field(min_length=1, max_length=100)
    when: str
    text: Wording = ""

    @field_validator("name")
    @classmethod
    def _one_line(cls, value: str) -> str:
        name = " ".join(value.split())
        if not name:
            raise ValueError("a wording needs a name")
        if column_key(name) == column_key(REST):
            raise ValueError(f'"{REST}" is what the plain wording is for: give this one another name')
        return name


def place_of(recipe: "Recipe", wording: str) -> int:
    """The place of the wording of that name, in any case; that of the one for all the rest where there is none."""
    keys = [column_key(each.name) for each in recipe.wordings]
    key = column_key(wording)
    return keys.index(key) if key in keys else len(keys)


class CheckLevel(StrEnum):
    """What the findings of a check do to their rows, as set for a round."""

    HOLDS = "holds"
    LOOK = "look"
    OFF = "off"


class CombineSettings(_Part):
    """Rows with the same cell in the column `by` become one text; `columns` says what becomes of the others."""

    by: str
    columns: dict[str, Aggregate] = Field(default_factory=dict)

    def how(self, column: str) -> Aggregate | None:
        """What becomes of a column, by its name in any case; None when the rows have to agree."""
        key = column_key(column)
        return next((how for name, how in self.columns.items() if column_key(name) == key), None)

    def renamed(self, column: str, name: str) -> "CombineSettings":
        """The same where a column has another name."""
        key = column_key(column)
        columns = {name if column_key(n) == key else n: how for n, how in self.columns.items()}
        return CombineSettings(by=name if column_key(self.by) == key else self.by, columns=columns)


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


class HoursSettings(_Part):
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


class PaceSettings(_Part):
    """How fast texts leave, when, and how many a day; see `core.recipe.pace` for the hours.

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


def _refuse_twice(what: str, names: Iterable[str]) -> None:
    seen: dict[str, str] = {}
    for name in names:
        if (other := seen.setdefault(column_key(name), name)) != name:
            raise ValueError(f'"{clipped(other)}" and "{clipped(name)}" are the same {what}: keep one of them')


FORM = 1
"""The version of the form a recipe has; see `recipe.kept` for how earlier ones become this one."""


class Recipe(_Part):
    """All that makes a round besides its rows.

    `form` is the version of the form it is written in.

    `sender` is the name of who writes, as it should stand in every text; "" where nobody has said.

    Rows that a workbook does not show are left out, unless `leave_out_hidden` says otherwise.

    `wordings` are tried in order; `wording` is for all the rows that none of them is for. `checks` has the levels that
    were set for this round, by the keys of the checks.

    `repeat_days` are those within which the same text, or one about the same reference, is looked for in other rounds;
    `lately_days` those within which any text to the same number is.

    `sent_columns` has the answer to whether a column says which rows were sent; one without an answer is asked about.
    """

    form: int = Field(default=FORM, ge=FORM, le=FORM)
    title: str = Field(default="Untitled round", min_length=1, max_length=200)
    as_of: date | None = None
    region: Region = "CA"
    currency: Currency = "CAD"
    locale: LocaleTag = "en-CA"
    wordings: tuple[ConditionalWording, ...] = Field(default=(), max_length=20)
    wording: Wording = ""
    pace: PaceSettings = PaceSettings()
    sender: str = Field(default="", max_length=100)
    plain_signs: bool = True
    leave_out_hidden: bool = True
    repeat_days: int = Field(default=30, ge=0, le=3_650)
    lately_days: int = Field(default=7, ge=0, le=3_650)
    checks: dict[str, CheckLevel] = Field(default_factory=dict, max_length=200)
    sent_columns: dict[str, bool] = Field(default_factory=dict, max_length=500)
    columns: dict[str, ColumnSettings] = Field(default_factory=dict, max_length=500)
    leave_out: tuple[LeaveOutRule, ...] = Field(default=(), max_length=50)
    combine: CombineSettings | None = None
    lookups: dict[str, Lookup] = Field(default_factory=dict, max_length=50)

    @model_validator(mode="after")
    def _one_spelling(self) -> "Recipe":
        """Names and keys match in any case, so two that differ by it alone would be one and the same."""
        _refuse_twice("column", self.columns)
        _refuse_twice("table", self.lookups)
        names = [wording.name for wording in self.wordings]
        if len(set(map(column_key, names))) < len(names):
            raise ValueError("two wordings have the same name: give one of them another")
        for name, table in self.lookups.items():
            _refuse_twice(f'key of the table "{clipped(name)}"', table)
        return self

    def setting(self, column: str) -> ColumnSettings:
        """The settings of a column, by its name in any case; empty ones when nothing was set."""
        key = column_key(column)
        return next((s for name, s in self.columns.items() if column_key(name) == key), ColumnSettings())

    def sent_answer(self, column: str) -> bool | None:
        """Whether that column says which rows were sent; None when nobody has said."""
        key = column_key(column)
        return next((answer for name, answer in self.sent_columns.items() if column_key(name) == key), None)

    def with_column(self, column: str, settings: ColumnSettings) -> "Recipe":
        """A recipe with one column set anew, in its place; settings that say nothing are dropped."""
        key = column_key(column)
        columns = {name: settings if column_key(name) == key else s for name, s in self.columns.items()}
        if all(column_key(name) != key for name in columns):
            columns[column] = settings
        kept = {name: s for name, s in columns.items() if s != ColumnSettings()}
        return self.model_copy(update={"columns": kept})
