"""Working out the columns of a round: cells read by their roles, formulas and links bound once for all rows."""

from collections.abc import Callable, Collection, Hashable, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal
from functools import cached_property
from typing import TypeVar

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.columns.by_row import ByRow
from gentle_ledger.core.columns.column_set import ColumnSet, parsed
from gentle_ledger.core.columns.combining import Groups, combined
from gentle_ledger.core.columns.conditions import Condition
from gentle_ledger.core.columns.links import link_template, refuse_address
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.columns.tables import tables_of
from gentle_ledger.core.columns.writing import Writer, as_value, value_text
from gentle_ledger.core.formulas.bind import bind, said, unknown_column
from gentle_ledger.core.formulas.kinds import comes_to_money, joins_text
from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.formulas.registry import Evaluate, FormulaContext
from gentle_ledger.core.formulas.tree import FieldNode, Node, calls_of
from gentle_ledger.core.formulas.values import ERRORS, Code, Fault, Wrong, fault_of, settled_for_good, wrong_of
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.format import Format, FormatKind, format_from, usual_format
from gentle_ledger.core.recipe.model import Recipe

Shown = str | Unreadable | None
"""A cell as it stands in a text; None is blank."""

MOST_LEVELS = 200
"""Levels of formulas built upon one another, columns included: what fits on the stack with room to spare."""

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Column:
    """One column of a round, cell by cell.

    Attributes:
        name: as the sheet or the recipe has it.
        role: what it is for.
        format: how its values are written; None writes each by its type.
        values: as read or computed.
        shown: as they stand in a text, fallbacks not put in.
        key: stands for all besides cells that the values depend on.
        shown_key: the same for what is shown.
        levels: how many levels of formula its values are built on; 0 for a column of the sheet.
        reads: positions of the columns of the sheet that its values come from in the end.
        lists: positions of the columns of which a combined cell has a list, as "B23 and C01", that its own is made of.
    """

    name: str
    role: Role
    format: Format | None
    values: ByRow[Value]
    shown: ByRow[Shown]
    key: Hashable
    shown_key: Hashable = None
    levels: int = 0
    reads: frozenset[int] = frozenset()
    lists: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True)
class Finished:
    """A column as it stands in the texts.

    Attributes:
        texts: one a row, "" where there is none.
        holes: the rows (from 0) in which it cannot stand: blank, or not to be read.
        nothing: those in which its formula comes to no text, which is none.
    """

    texts: list[str]
    holes: list[int]
    nothing: list[int]


@dataclass
class Evaluation:
    """The columns of a round worked out. `groups` says which rows go together.

    `problems` has the computed columns that cannot be used, by position: their cells are errors.
    """

    readings: Readings
    recipe: Recipe
    columns: ColumnSet
    groups: Groups
    problems: dict[int, FormulaError] = field(init=False)
    _made: dict[int, Column] = field(default_factory=dict)

    def __post_init__(self) -> None:
        recipe = self.recipe
        self.writer = Writer(recipe.locale, recipe.currency, recipe.plain_signs)
        office, lookups = self.readings.office, tables_of(recipe.lookups)
        self._context = FormulaContext(recipe.as_of, recipe.locale, recipe.currency, office, lookups)
        tables = tuple((name, tuple(table.items())) for name, table in recipe.lookups.items())
        self._outside = (recipe.as_of, recipe.locale, recipe.currency, tables)
        self.problems = dict(self.columns.problems)
        for position in self.columns.order:
            self.column(position)

    def column(self, position: int) -> Column:
        """A column of the round, worked out as far as it was asked for."""
        if position not in self._made:
            self._made[position] = self._make(position)
        return self._made[position]

    def kept(self, key: Hashable, columns: Collection[Column], make: Callable[[], T]) -> T:
        """What is worked out from whole columns, kept for as long as nothing that it comes from changes."""
        reads = frozenset[int]().union(*(column.reads for column in columns))
        return self.readings.cache.kept(key, reads, make)

    def finished(self, position: int) -> "Finished":
        """A column as it stands in the texts of all rows, fallbacks put in.

        Not for columns whose rows are combined.
        """
        column, fallback = self.column(position), self.columns.fallback(position)
        shown = column.shown.whole()

        def make() -> Finished:
            filled = [fallback if not text and (text is None or fallback) else text for text in shown]
            holes = [row for row, text in enumerate(filled) if not isinstance(text, str)]
            nothing = [row for row, text in enumerate(filled) if text == ""]
            return Finished([text if isinstance(text, str) else "" for text in filled], holes, nothing)

        return self.kept(("finished", column.shown_key, fallback), [column], make)

    def bound(self, formula: str) -> Evaluate:
        """A formula over the columns, ready for any row. Raises FormulaError with the place when it cannot be used."""
        return self.bound_node(parsed(formula))

    def bound_node(self, node: Node) -> Evaluate:
        """The same for a piece of a formula."""
        return bind(node, self._finder([]), self._context, self._as_written)

    @cached_property
    def rules(self) -> tuple[Condition, ...]:
        """The conditions of the rules that leave rows out, each by its reason."""
        return tuple(self.condition(rule.reason, rule.when) for rule in self.recipe.leave_out)

    def condition(self, name: str, when: str) -> Condition:
        """A formula as a condition on each row; one that cannot be used keeps its problem."""
        used: list[Column] = []
        try:
            node = parsed(when)
            evaluate = bind(node, self._finder(used), self._context, self._as_written)
        except FormulaError as fault:
            return Condition(name, None, fault)
        places = len(self.groups)
        key = ("condition", *self._source(node, when, used), places, tuple(column.key for column in used))
        values: ByRow[Value] = self.kept(key, used, lambda: ByRow(places, lambda row: _worked_out(evaluate, row)))
        reads = frozenset[int]().union(*(column.reads for column in used))
        asks = any(call.name == "ISBLANK" for call in calls_of(node))
        return Condition(name, values, None, key, reads, asks)

    def _source(self, node: Node, formula: str, used: Collection[Column]) -> tuple[object, ...]:
        """All besides cells and columns that a formula's values depend on."""
        # What is joined to a text depends on how it is written.
        writes = (self.writer, tuple(column.shown_key for column in used)) if joins_text(node) else ()
        return ("formula", formula, self._outside, writes)

    def _make(self, position: int) -> Column:
        if position < self.columns.first_computed:
            role = self.columns.roles[position]
            values = self.readings.values(position, role, self.recipe)
            key = self.readings.values_key(position, role, self.recipe)
            return self._together(position, self._column(position, values, key, reads=frozenset({position})))
        if position in self.problems:
            return self._unusable(position)
        try:
            return self._computed(position)
        except FormulaError as fault:
            self.problems[position] = fault
            return self._unusable(position)

    def _unusable(self, position: int) -> Column:
        name = self.columns.names[position]
        fault = fault_of(Code.VALUE, f"the formula of {name} cannot be used", name)
        values: ByRow[Value] = ByRow(len(self.groups), lambda _row: fault)
        return self._column(position, values, ("unusable", name, len(self.groups)))

    def _column(
        self, position: int, values: ByRow[Value], key: Hashable, levels: int = 0, reads: frozenset[int] = frozenset()
    ) -> Column:
        settings = self.columns.settings[position]
        wanted = format_from(settings.format) if settings.format else self._usual(position)
        write = self.writer.writing(wanted)

        def show(row: int) -> Shown:
            value = values[row]
            return value if isinstance(value, Unreadable) else write(value)

        shown_key = ("shown", key, wanted, self.writer)
        shown = self.readings.cache.kept(shown_key, reads, lambda: ByRow(len(values), show))
        name, role = self.columns.names[position], self.columns.roles[position]
        return Column(name, role, wanted, values, shown, key, shown_key, levels, reads)

    def _usual(self, position: int) -> Format | None:
        """Figures that stand in percent in the sheet stay in percent; all else is written by its role.

        A formula that comes to money may come to words in some rows, which are written as they are.
        """
        role, computed = self.columns.roles[position], position >= self.columns.first_computed
        if role is Role.MONEY and computed and self.columns.settings[position].role is None:
            return Format(FormatKind.MONEY, strict=False)
        if role is Role.NUMBER and not computed and self.readings.in_percent(position):
            return Format(FormatKind.PERCENT)
        return usual_format(role)

    def _computed(self, position: int) -> Column:
        settings = self.columns.settings[position]
        used: list[Column] = []
        exploded: frozenset[str] = frozenset()
        if settings.formula is not None:
            node = parsed(settings.formula)
            written = self._as_in_links if settings.role is Role.LINK else self._as_written
            evaluate = bind(node, self._finder(used), self._context, written)
            source = self._source(node, settings.formula, used)
            levels = node.place.depth
        else:
            evaluate, exploded = self._link(settings.template or "", used)
            fallbacks = tuple(self._fallback_of(column.name) for column in used)
            source = ("template", settings.template, fallbacks, tuple(column.format for column in used))
            levels = 1
        levels += max((column.levels for column in used), default=0)
        if levels > MOST_LEVELS:
            end = len(settings.formula or settings.template or "")
            what = f"The formula builds on more than {MOST_LEVELS} levels of other formulas."
            raise FormulaError(0, end, what, "Simplify some of them.")
        places = len(self.groups)
        key = (*source, places, tuple(column.key for column in used))
        values: ByRow[Value] = self.kept(key, used, lambda: ByRow(places, lambda row: _worked_out(evaluate, row)))
        reads = frozenset[int]().union(*(column.reads for column in used))
        column = replace(self._column(position, values, key, levels, reads), lists=self._lists_in(used, exploded))
        return self._together(position, column) if self._how(position) else column

    def _lists_in(self, used: Collection[Column], exploded: Collection[str]) -> frozenset[int]:
        """The lists that cells are made of which use those columns; a link takes some of them apart again."""
        found = set[int]()
        for column in used:
            apart = {self.columns.position(column.name)} if column.name in exploded else set[int | None]()
            found |= column.lists - apart
        return frozenset(found)

    def items(self, position: int, rows: Sequence[int]) -> list[str]:
        """What different things some rows have in a column, as it stands in a text."""
        shown = self.column(position).shown
        return list(dict.fromkeys(text for row in rows if isinstance(text := shown[row], str) and text))

    def _how(self, position: int) -> Aggregate | None:
        """What becomes of a column in a combined row; what the rows have in common may be written in several ways."""
        settings = self.recipe.combine
        if settings is None:
            return None
        by = self.columns.position(settings.by) == position
        return settings.how(self.columns.names[position]) or (Aggregate.FIRST if by else None)

    def _together(self, position: int, column: Column) -> Column:
        """The column with its groups' cells behind the rows' own."""
        groups = self.groups
        if not groups.members:
            return column
        how = self._how(position)
        own, own_shown, locale, writer = column.values, column.shown, self.recipe.locale, self.writer
        wanted = column.format if how is None or how.keeps_format else None

        def value(place: int) -> Value:
            if place < groups.rows:
                return own[place]
            rows = groups.members[place - groups.rows]
            return combined(column.name, rows, own.__getitem__, own_shown.__getitem__, how, locale)

        # A list is made of what is shown, so its format counts as well.
        key = ("together", column.key, column.shown_key, groups.key, how)
        values: ByRow[Value] = self.kept(key, [column], lambda: ByRow(len(groups), value))

        def show(place: int) -> Shown:
            if place < groups.rows:
                return own_shown[place]
            found = values[place]
            return found if isinstance(found, Unreadable) else writer.write(found, wanted)

        shown_key = ("shown", key, wanted, writer)
        shown = self.kept(shown_key, [column], lambda: ByRow(len(groups), show))
        lists = frozenset({position} if how is Aggregate.LISTED else ())
        return replace(column, values=values, shown=shown, key=key, shown_key=shown_key, lists=lists)

    def _finder(self, used: list[Column]) -> Callable[[FieldNode], Evaluate]:
        """Looks fields up for `bind`, and notes in `used` which columns they were."""

        def find(node: FieldNode) -> Evaluate:
            position = self.columns.position(node.name)
            if position is None:
                raise unknown_column(node, self.columns.names)
            column = self.column(position)
            used.append(column)
            return _value_of(column)

        return find

    def _as_in_links(self, node: Node, value: Evaluate) -> Evaluate:
        """A piece of a formula as it is joined to an address: amounts plain at their digits, days in ISO 8601."""
        wanted = Format(FormatKind.MONEY) if comes_to_money(node, self.columns.is_money) else None

        def plain(row: int) -> Cell:
            found = value(row)
            return value_text(as_value(found, wanted, self.recipe.currency)) if isinstance(found, Decimal) else found

        return plain

    def _as_written(self, node: Node, value: Evaluate) -> Evaluate:
        """A piece of a formula as it is joined to a text: figures and days as their column, or money, is written."""
        name, money = said(node), comes_to_money(node, self.columns.is_money)
        position = None if name is None else self.columns.position(name)
        column = None if position is None else self.column(position)
        wanted = column.format if column else Format(FormatKind.MONEY, strict=False) if money else None
        write = self.writer.writing(wanted)

        def shown(row: int) -> Cell:
            found = value(row)
            if isinstance(found, bool) or not isinstance(found, (Decimal, date)):
                return found
            if column is None and not money and isinstance(found, Decimal):
                return found
            text = write(found)
            if isinstance(text, Unreadable):
                raise _wrong(text, name or "a value")
            return text

        return shown

    def _fallback_of(self, name: str) -> str | None:
        position = self.columns.position(name)
        return None if position is None else self.columns.fallback(position)

    def _link(self, template: str, used: list[Column]) -> tuple[Evaluate, frozenset[str]]:
        """A link's address in each row, and the columns of which it takes lists apart."""
        refuse_address(template)
        bound = link_template(template, self.columns.names)
        columns = {}
        for name in bound.columns:
            position = self.columns.position(name)
            if position is not None:
                columns[name] = self.column(position)
        used += columns.values()
        fallbacks = {name: self._fallback_of(name) for name in columns}
        currency = self.recipe.currency
        values = {name: _value_of(column) for name, column in columns.items()}

        groups, listed = self.groups, {name for name in bound.exploded if columns[name].lists}

        def plain(name: str, row: int) -> str:
            return value_text(as_value(values[name](row), columns[name].format, currency)).strip()

        def evaluate(row: int) -> Cell:
            def text_of(name: str) -> str | list[str] | None:
                if name in listed and row >= groups.rows:
                    items = [plain(name, member) for member in groups.members[row - groups.rows]]
                    if found := list(dict.fromkeys(item for item in items if item)):
                        return found
                text = plain(name, row)
                text = text or fallbacks[name] or ""
                if not text and name in bound.needed:
                    raise Wrong(Code.VALUE, f"{name} is blank", name)
                return text or None

            return bound.expand(text_of)

        return evaluate, bound.exploded


def _value_of(column: Column) -> Evaluate:
    """A column's value in a row, as a formula uses it: what cannot be read is an error that names the column."""
    values, name = column.values, column.name

    def value(row: int) -> Cell:
        found = values[row]
        if isinstance(found, Unreadable):
            raise _wrong(found, name)
        return found

    return value


def _wrong(found: Unreadable, name: str) -> Wrong:
    if isinstance(found, Fault):
        return Wrong(found.code, found.why, found.column)
    if found.wanted:
        return Wrong(Code.VALUE, f"{name} is '{clipped(found.typed)}', not {found.wanted}", name)
    return Wrong(Code.VALUE, f"{name}: {found.why}", name)


def _worked_out(evaluate: Evaluate, row: int) -> Value:
    try:
        return settled_for_good(evaluate(row))
    except ERRORS as fault:
        wrong = wrong_of(fault)
        return fault_of(wrong.code, wrong.why, wrong.column)
