"""From a sheet and a recipe to texts, marks and findings: the one door to the core."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum
from functools import cached_property

from gentle_ledger.core import formats
from gentle_ledger.core.checks import Finding, check_of, run_checks
from gentle_ledger.core.checks.model import Gap
from gentle_ledger.core.numbers import Number, tidy_number
from gentle_ledger.core.reading import Value, read_column
from gentle_ledger.core.recipe import Recipe
from gentle_ledger.core.roles import recognise_roles
from gentle_ledger.core.sheets.model import Sheet, column_key
from gentle_ledger.core.sms.parts import Measure, measure
from gentle_ledger.core.values import Role, Unreadable
from gentle_ledger.core.wording.parse import Field, Wording, parse_wording, unknown_fields


class PlanMark(StrEnum):
    """Where a row stands before sending starts."""

    READY = "Ready"
    HELD = "Held"
    LEFT_OUT = "Left out"


@dataclass(frozen=True, slots=True)
class Run:
    """A stretch of a text: `column` is where it came from, None for the wording's own words.

    `gap` marks a place that the row could not fill; its text is then the column's name, never part of what is sent.
    """

    text: str
    column: str | None = None
    gap: bool = False


Shown = str | Unreadable | None
"""A cell as it stands in a text; None is blank."""


class Column:
    """One column read by its role. Values are read at once, their wording only for the rows that are looked at."""

    def __init__(self, name: str, values: Sequence[Value], role: Role, currency: str, locale: str) -> None:
        self.name = name
        self.role = role
        self.values = values
        self._currency = currency
        self._locale = locale
        self._shown: dict[int, Shown] = {}

    def shown(self, row: int) -> Shown:
        """The cell of a row (from 0) as it stands in a text."""
        if row not in self._shown:
            self._shown[row] = show(self.values[row], self.role, self._currency, self._locale)
        return self._shown[row]


@dataclass
class Workings:
    """What was read of one sheet, kept so that a change of the wording reads no cell again.

    Keyed by all that the reading depends on, so it is never stale; belongs to exactly one sheet.
    """

    sheet: Sheet
    numbers_by: dict[tuple[int, str], list[Number]] = field(default_factory=dict)
    columns_by: dict[tuple[int, Role, str, str], Column] = field(default_factory=dict)
    roles_by: dict[tuple[str, str], tuple[Role, ...]] = field(default_factory=dict)

    def numbers(self, position: int, region: str) -> list[Number]:
        key = (position, region)
        if key not in self.numbers_by:
            self.numbers_by[key] = [tidy_number(cell, region) for cell in self.sheet.values(position)]
        return self.numbers_by[key]

    def column(self, position: int, role: Role, recipe: Recipe) -> Column:
        key = (position, role, recipe.currency, recipe.locale)
        if key not in self.columns_by:
            values = read_column(self.sheet.values(position), role, recipe.currency, recipe.locale)
            self.columns_by[key] = Column(self.sheet.columns[position], values, role, recipe.currency, recipe.locale)
        return self.columns_by[key]

    def recognised(self, recipe: Recipe) -> tuple[Role, ...]:
        key = (recipe.region, recipe.locale)
        if key not in self.roles_by:
            self.roles_by[key] = recognise_roles(self.sheet, recipe.region, recipe.locale)
        return self.roles_by[key]


def show(value: Value, role: Role, currency: str, locale: str) -> Shown:
    """A value as it stands in a text."""
    if value is None or isinstance(value, (str, Unreadable)):
        return value
    if isinstance(value, Decimal):
        return formats.money(value, currency, locale) if role is Role.MONEY else formats.number(value, locale)
    return formats.day(value, locale)


def roles_of(workings: Workings, recipe: Recipe) -> tuple[Role, ...]:
    """Each column's role: the one that was set, else the recognised one.

    A set mobile number takes the role from the recognised column, so that texts go to one number only.
    """
    recognised = workings.recognised(recipe)
    chosen = [recipe.setting(column).role for column in workings.sheet.columns]
    taken = Role.MOBILE in chosen
    return tuple(
        own or (Role.TEXT if taken and guess is Role.MOBILE else guess)
        for own, guess in zip(chosen, recognised, strict=True)
    )


# A name in two columns; common practice, no source.
_FIRST = frozenset({"first", "given", "forename"})
_LAST = frozenset({"last", "surname", "family"})


class Composer:
    """Writes the text of any one row: a wording bound to a sheet's columns, roles and fallbacks."""

    def __init__(self, workings: Workings, recipe: Recipe) -> None:
        sheet = workings.sheet
        self.workings = workings
        self.recipe = recipe
        self.roles = roles_of(workings, recipe)
        self.wording: Wording = parse_wording(recipe.wording)
        self.problems = (*self.wording.problems, *unknown_fields(self.wording, sheet.columns))
        self.mobile = next((i for i, role in enumerate(self.roles) if role is Role.MOBILE), None)
        self._pieces: list[str | int] = []
        self._columns: dict[int, Column] = {}
        self._fallbacks: dict[int, str | None] = {}
        for piece in self.wording.pieces:
            position = sheet.position(piece.name) if isinstance(piece, Field) else None
            if position is None:
                self._pieces.append(f"{{{piece.name}}}" if isinstance(piece, Field) else str(piece))
            else:
                self._pieces.append(position)
                self._columns[position] = self.column(position)
                fallback = recipe.setting(sheet.columns[position]).fallback
                self._fallbacks[position] = fallback.strip() or None if fallback else None

    @property
    def used(self) -> list[int]:
        """Positions of the columns the wording uses."""
        return list(self._columns)

    def column(self, position: int) -> Column:
        """A column of the sheet as its role reads it, whether the wording uses it or not."""
        return self.workings.column(position, self.roles[position], self.recipe)

    def label(self, row: int) -> str:
        """What a clerk calls the row: its name cells ("Farida Benali"), or "" when it has none."""
        names = [i for i, role in enumerate(self.roles) if role is Role.NAME]
        cells = [cell for i in names if isinstance(cell := self.column(i).values[row], str)]
        headers = [column_key(self.workings.sheet.columns[i]).split() for i in names]
        if len(cells) > 1 and _FIRST & set(headers[0]) and _LAST & set(headers[1]):
            return f"{cells[0]} {cells[1]}"
        return cells[0] if cells else ""

    def number(self, row: int) -> Number:
        if self.mobile is None:
            return Number(problem="no column has the role mobile number")
        return self.workings.numbers(self.mobile, self.recipe.region)[row]

    def _value(self, position: int, row: int) -> Shown:
        shown = self._columns[position].shown(row)
        return self._fallbacks[position] if shown is None else shown

    def gaps(self, row: int) -> tuple[Gap, ...]:
        """The fields this row cannot fill."""
        found = []
        for position in self._columns:
            value = self._value(position, row)
            if not isinstance(value, str):
                why = value.why if isinstance(value, Unreadable) else None
                found.append(Gap(self.workings.sheet.columns[position], why))
        return tuple(found)

    def text(self, row: int) -> str:
        """The finished text, or "" when the row cannot fill every field: a text with a hole in it must not exist."""
        parts: list[str] = []
        for piece in self._pieces:
            if isinstance(piece, str):
                parts.append(piece)
                continue
            value = self._value(piece, row)
            if not isinstance(value, str):
                return ""
            parts.append(value)
        return "".join(parts)

    def runs(self, row: int) -> list[Run]:
        """The text stretch by stretch, gaps included; without gaps, joined it is `text(row)`."""
        found = []
        for piece in self._pieces:
            if isinstance(piece, str):
                found.append(Run(piece))
                continue
            column = self.workings.sheet.columns[piece]
            value = self._value(piece, row)
            found.append(Run(value, column) if isinstance(value, str) else Run(column, column, gap=True))
        return found

    def column_at(self, row: int, position: int) -> str | None:
        """The column that the character at `position` of the row's text came from; None for the wording's own."""
        end = 0
        for run in self.runs(row):
            end += len(run.text)
            if position < end:
                return run.column
        return None


class Computed:
    """A whole round computed: one entry a row in each sequence, rows counted from 0."""

    def __init__(self, composer: Composer, left_out: Collection[int], released: Collection[int]) -> None:
        rows = range(len(composer.workings.sheet.rows))
        self.composer = composer
        sheet = composer.workings.sheet
        self.mobile_column = None if composer.mobile is None else sheet.columns[composer.mobile]
        self.wording_problem = composer.problems[0].message.rstrip(".") if composer.problems else None
        self.numbers: Sequence[Number] = [composer.number(row) for row in rows]
        self.gaps: Sequence[Sequence[Gap]] = [composer.gaps(row) for row in rows]
        self.texts: Sequence[str] = ["" if composer.problems else composer.text(row) for row in rows]
        self.measures: Sequence[Measure] = [measure(text) for text in self.texts]
        self.findings = run_checks(self, len(rows), left_out, released)
        self.by_row: dict[int, list[Finding]] = {}
        for finding in self.findings:
            self.by_row.setdefault(finding.row, []).append(finding)
        held = {finding.row for finding in self.findings if check_of(finding.check).holds}
        self.marks: Sequence[PlanMark] = [
            PlanMark.LEFT_OUT if row in left_out else PlanMark.HELD if row in held else PlanMark.READY for row in rows
        ]

    def __len__(self) -> int:
        return len(self.texts)

    def amounts(self) -> Iterator[tuple[str, Sequence[Decimal | None]]]:
        composer = self.composer
        for position in composer.used:
            if composer.roles[position] is Role.MONEY:
                column = composer.column(position)
                yield column.name, [value if isinstance(value, Decimal) else None for value in column.values]

    def culprit(self, row: int, position: int) -> str | None:
        return self.composer.column_at(row, position)

    def reason(self, row: int) -> str:
        """Why a row is held or left out, in plain words; "" for a row that is ready."""
        if self.marks[row] is PlanMark.LEFT_OUT:
            return "left out by hand"
        holding = [f.reason for f in self.by_row.get(row, ()) if check_of(f.check).holds]
        return "; ".join(holding)

    @cached_property
    def ready(self) -> list[int]:
        return [row for row, mark in enumerate(self.marks) if mark is PlanMark.READY]

    @cached_property
    def ready_parts(self) -> int:
        """How many parts the ready texts are carried in altogether."""
        return sum(self.measures[row].parts for row in self.ready)


def compute_round(
    sheet: Sheet,
    recipe: Recipe,
    *,
    left_out: Collection[int] = frozenset(),
    released: Collection[int] = frozenset(),
    workings: Workings | None = None,
) -> Computed:
    """Computes every row of a round.

    Args:
        sheet: the rows.
        recipe: the set-up.
        left_out: rows (from 0) that the clerk keeps out.
        released: rows (from 0) that the clerk sends although a releasable check holds them.
        workings: what was already read of this same sheet.
    """
    return Computed(Composer(workings or Workings(sheet), recipe), left_out, released)
