"""A row's own moment, the zones of its recipient, and its place in the order: what of a pace is told by columns."""

from dataclasses import dataclass
from datetime import date, datetime, time, tzinfo
from decimal import Decimal
from hashlib import blake2b
from zoneinfo import ZoneInfo

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.days import written_day
from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.cells.zones import zones_of
from gentle_ledger.core.columns.evaluation import Evaluation
from gentle_ledger.core.pace.civil import MINUTES_A_DAY, day_begins, instant_of, known_zone, stretch_of_day, zone_named
from gentle_ledger.core.pace.decide import RowState
from gentle_ledger.core.pace.hours import WhoseClocks
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import SHUFFLED, PaceSettings, column_of_order

NO_MOMENT = reason_kind("no moment", "{column} is blank, so nobody can say when the text is to leave")
NOT_A_MOMENT = reason_kind("not a moment", "{column} is '{typed}', which is not a day, or a day and a time")
MOMENT_ASKED = reason_kind("moment in question", "{column}: {why}")
NO_SUCH_ZONE = reason_kind("no such zone", "{column} is '{typed}', which is no time zone such as America/Halifax")
NO_ZONE = reason_kind("zone unknown", "nobody can say in which time zone {number} is")
NO_SUCH_COLUMN = reason_kind("pace without its column", "the pace goes by a column {column}, which is not there")
NO_HOURS = reason_kind("hours never come", "it is never between {opens} and {closes} in all of its {zones} time zones")


@dataclass(frozen=True, slots=True)
class OwnMoment:
    """When a row's text is to leave at the earliest: a day, perhaps with a time, and with whose clocks it is by."""

    day: date
    clock: time | None = None
    offset: tzinfo | None = None

    def instant(self, zone: ZoneInfo, opens: int) -> float:
        """In POSIX seconds, by the clocks of a zone; without a time it is where the hours begin, in minutes."""
        if self.clock is None:
            stretches = stretch_of_day(self.day, zone, opens, MINUTES_A_DAY)
            return stretches[0][0] if stretches else day_begins(self.day, zone)
        moment = datetime.combine(self.day, self.clock)
        return moment.replace(tzinfo=self.offset).timestamp() if self.offset else instant_of(moment, zone)


class OwnTimes:
    """What the columns of a round tell of when each row leaves.

    Args:
        evaluation: the round's columns.
        recipe: the round's set-up.
    """

    def __init__(self, evaluation: Evaluation, recipe: Recipe) -> None:
        self._evaluation = evaluation
        self._locale = recipe.locale
        self._office = evaluation.readings.office
        self.pace: PaceSettings = recipe.pace
        columns = evaluation.columns
        self.at = columns.position(self.pace.at) if self.pace.at else None
        self.zone = columns.position(self.pace.zone) if self.pace.zone else None
        self._order, self._largest_first = self._order_column()

    def _order_column(self) -> tuple[int | None, bool]:
        """The column that the order goes by, and whether its largest value comes first."""
        order, columns = self.pace.order, self._evaluation.columns
        if not order or order == SHUFFLED:
            return None, False
        own = columns.position(order)
        return (own, False) if own is not None else (columns.position(column_of_order(order)), True)

    def _value(self, position: int, row: int) -> Value:
        return self._evaluation.column(position).values[self._evaluation.groups.place(row)]

    def _name(self, position: int) -> str:
        return self._evaluation.columns.names[position]

    def _typed(self, position: int, row: int) -> Cell:
        """The cell as it stands in the sheet; None for a computed column."""
        sheet = self._evaluation.readings.sheet
        return sheet.rows[row][position] if position < len(sheet.columns) else None

    def moment(self, row: int) -> OwnMoment | Reason | None:
        """A row's own moment, or why it cannot be said; None where the round has no column of them."""
        if self.at is None:
            return None
        value, column = self._value(self.at, row), self._name(self.at)
        if isinstance(value, Unreadable):
            return MOMENT_ASKED(column=column, why=value.why)
        if value is None or (isinstance(value, str) and is_blank(value)):
            return NO_MOMENT(column=column)
        day: object = value
        if isinstance(value, str):
            written = written_day(value, self._locale)
            day = None if written is None or written.open else written.value(written.only, self._office)
        if not isinstance(day, date):
            return NOT_A_MOMENT(column=column, typed=clipped(as_written(value)))
        if not isinstance(day, datetime):
            return OwnMoment(day)
        return OwnMoment(day.date(), day.time(), self._office if self._names_moment(self.at, row) else None)

    def _names_moment(self, position: int, row: int) -> bool:
        """Whether a cell of the sheet says by whose clocks its time is: it is a moment, wherever its recipient is."""
        typed = self._typed(position, row)
        written = written_day(typed, self._locale) if isinstance(typed, str) else None
        return written is not None and written.offset is not None

    def zones(self, row: int, number: str) -> tuple[str, ...] | Reason:
        """The zones (IANA) that a row's recipient can be in: the one that its row names, else those of its number.

        A reason where neither tells it.
        """
        if self.zone is not None:
            value = self._value(self.zone, row)
            typed = "" if value is None else value.typed if isinstance(value, Unreadable) else as_written(value)
            if typed.strip():
                named = known_zone(typed)
                return (named,) if named else NO_SUCH_ZONE(column=self._name(self.zone), typed=clipped(typed))
        return zones_of(number) or NO_ZONE(number=number)

    @property
    def by_recipient(self) -> bool:
        """Whether the recipients' own clocks tell the hours, and the moments with them."""
        return self.pace.hours is not None and self.pace.hours.where is WhoseClocks.RECIPIENT

    def state(self, row: int, number: str, office: str) -> RowState | Reason:
        """A row as the pace looks at it, where the office is in that zone (IANA); a reason where that cannot be said.

        Hours that never come where its recipient may be are a reason, too.
        """
        zones = self.zones(row, number)
        if isinstance(zones, Reason):
            if self.by_recipient:
                return zones
            zones = ()
        moment = self.moment(row)
        if isinstance(moment, Reason):
            return moment
        hours = self.pace.hours
        opens = 0 if hours is None else hours.as_hours().opens
        clocks = zones if self.by_recipient else (office,)
        at = None if moment is None else max(moment.instant(zone_named(zone), opens) for zone in clocks)
        return RowState(zones, at)

    def timed(self, row: int) -> bool:
        """Whether a row's own moment has a time of day."""
        moment = self.moment(row)
        return isinstance(moment, OwnMoment) and moment.clock is not None

    def in_order(self, rows: list[int], number: dict[int, str]) -> list[int]:
        """Rows in the order in which they leave. Ties stay as in the sheet; blanks, and what is unreadable, come last.

        `number` has the number of each: a shuffled order is another with every sheet, and the same for one.
        """
        if self.pace.order == SHUFFLED:
            return sorted(rows, key=lambda row: _mixed(row, number[row]))
        if self._order is None:
            return rows
        sorted_by: list[list[tuple[Decimal | datetime | str, int]]] = [[], [], []]
        last: list[int] = []
        for row in rows:
            value = self._value(self._order, row)
            if value is None or isinstance(value, Unreadable):
                last.append(row)
            elif isinstance(value, (Decimal, bool)):
                sorted_by[0].append((Decimal(value), row))
            elif isinstance(value, date):
                sorted_by[1].append((_moment_of(value), row))
            else:
                sorted_by[2].append((value.strip().casefold(), row))
        for each in sorted_by:
            each.sort(key=lambda pair: pair[0], reverse=self._largest_first)
        return [row for each in sorted_by for _, row in each] + last


def _moment_of(value: date) -> datetime:
    return value if isinstance(value, datetime) else datetime.combine(value, time())


def _mixed(row: int, number: str) -> bytes:
    return blake2b(f"{row} {number}".encode(), digest_size=8).digest()
