"""All columns of a round: those of the sheet, then those it computes by a formula or a link template."""

from collections.abc import Callable, Collection, Hashable
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal
from functools import cached_property, lru_cache

from gentle_ledger.core.cell_format import (
    Format,
    Way,
    Writer,
    as_value,
    format_from,
    usual_format,
    value_text,
)
from gentle_ledger.core.combining import Groups, How, combined, grouped
from gentle_ledger.core.countries import country_in
from gentle_ledger.core.errors import RecipeError
from gentle_ledger.core.formulas.bind import bind, said, unknown_column
from gentle_ledger.core.formulas.explain import Explainer, explained, unit_of
from gentle_ledger.core.formulas.kinds import asked_to_equal_a_number, comes_to_money, joins_text
from gentle_ledger.core.formulas.parse import FormulaError, parse_formula
from gentle_ledger.core.formulas.registry import Around, Evaluate
from gentle_ledger.core.formulas.tree import FieldNode, Node
from gentle_ledger.core.formulas.values import (
    ERRORS,
    ZERO,
    Code,
    Fault,
    Wrong,
    as_text,
    settled_for_good,
    wrong_of,
)
from gentle_ledger.core.numbers import Number
from gentle_ledger.core.order import Reading
from gentle_ledger.core.reading import Value
from gentle_ledger.core.recipe import ColumnSettings, Recipe
from gentle_ledger.core.renaming import fields_in
from gentle_ledger.core.rows import ByRow, GiveWay, giving_way
from gentle_ledger.core.rules import Rule, bound_rule
from gentle_ledger.core.sheets.model import Cell, column_key
from gentle_ledger.core.tables import tables_of
from gentle_ledger.core.values import Role, Unreadable
from gentle_ledger.core.wording.links import link_template, refuse_address
from gentle_ledger.core.words import clipped, listed
from gentle_ledger.core.workings import Workings, number_of

Shown = str | Unreadable | None
"""A cell as it stands in a text; None is blank."""

MOST_LEVELS = 200
"""Levels of formulas built upon one another, columns included: what fits on the stack with room to spare."""


@dataclass(frozen=True, slots=True)
class Column:
    """One column of a round, cell by cell.

    Attributes:
        name: as the sheet or the recipe has it.
        role: what it is for.
        format: how its values are written; None writes each by its type.
        values: as read or computed.
        shown: as they stand in a text, fallbacks not put in.
        key: stands for all that the values depend on.
        shown_key: the same for what is shown.
        levels: how many levels of formula its values are built on; 0 for a column of the sheet.
        reads: positions of the columns of the sheet that its values come from in the end.
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


@dataclass
class Columns:
    """The columns of a round, computed ones bound once; `problems` has the formulas that cannot be used, by column."""

    workings: Workings
    recipe: Recipe
    names: tuple[str, ...] = ()
    roles: tuple[Role, ...] = ()
    problems: dict[int, FormulaError] = field(default_factory=dict)
    rules: tuple[Rule, ...] = ()
    left_out: Collection[int] = frozenset()
    groups: Groups = field(init=False)
    combine_problem: RecipeError | None = None
    _made: dict[int, Column] = field(default_factory=dict)
    _making: list[int] = field(default_factory=list)
    _explainers: dict[int, Explainer] = field(default_factory=dict)
    _known_numbers: dict[int, ByRow[Number]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        sheet = self.workings.sheet
        computed = [(name, settings) for name, settings in self.recipe.columns.items() if settings.computed]
        self.names = (*sheet.columns, *(name for name, _ in computed))
        self._settings = [*(self.recipe.setting(name) for name in sheet.columns), *(s for _, s in computed)]
        self._places = {column_key(name): i for i, name in reversed(list(enumerate(self.names)))}
        self._known_roles: dict[int, Role] = dict(enumerate(self.workings.roles(self.recipe)))
        self.roles = tuple(self._role(position) for position in range(len(self.names)))
        self._writer = Writer(self.recipe.locale, self.recipe.currency, self.recipe.plain_signs)
        self._around = Around(
            self.recipe.as_of, self.recipe.locale, self.recipe.currency, tables_of(self.recipe.lookups)
        )
        self._outside = _frozen(self.recipe)
        self.groups = Groups(len(sheet.rows))
        self.groups = self._grouped()
        # What was found before the groups were known lacks their cells.
        self._made.clear()
        for position in range(len(sheet.columns), len(self.names)):
            self.column(position)
        self.rules = tuple(bound_rule(rule, self.bound) for rule in self.recipe.leave_out)

    @property
    def first_computed(self) -> int:
        """The position of the first computed column, right behind the last one of the sheet."""
        return len(self.workings.sheet.columns)

    def position(self, name: str) -> int | None:
        """Where the column of that name stands, in any case; None when there is none."""
        return self._places.get(column_key(name))

    @property
    def unmatched(self) -> tuple[str, ...]:
        """The columns that the set-up speaks of and that are not there, as an earlier sheet called them."""
        recipe = self.recipe
        named = [name for name, settings in recipe.columns.items() if not settings.computed]
        combine = recipe.combine
        named += [combine.by, *combine.columns] if combine else []
        named += fields_in(recipe)
        missing = {column_key(name): " ".join(name.split()) for name in named if self.position(name) is None}
        return tuple(name for key, name in missing.items() if key)

    def numbers(self, position: int, give_way: GiveWay) -> list[Number]:
        """The phone numbers of all rows; a group's rows have its number."""
        if position < self.first_computed and not self.groups.members:
            return self._numbers(position).whole(give_way)
        rows = giving_way(range(self.groups.rows), give_way)
        return [self.number(position, self.groups.place(row)) for row in rows]

    def finished(self, position: int, give_way: GiveWay) -> tuple[list[str], list[int]]:
        """A column as it stands in the texts of all rows, fallbacks put in, and the rows (from 0) where it cannot be.

        Kept from one wording to the next; not for columns whose rows are combined.
        """
        column, fallback = self.column(position), self.fallback(position)
        shown = column.shown.whole(give_way)

        def make() -> tuple[list[str], list[int]]:
            filled = [fallback if not text and (text is None or fallback) else text for text in shown]
            holes = [row for row, text in enumerate(filled) if not isinstance(text, str)]
            return [text if isinstance(text, str) else "" for text in filled], holes

        return self.workings.kept(("finished", column.shown_key, fallback), make)

    def settings(self, position: int) -> ColumnSettings:
        return self._settings[position]

    def fallback(self, position: int) -> str | None:
        """What fills the column's blanks; None when nothing was set."""
        text = self._settings[position].fallback
        return text.strip() or None if text else None

    def column(self, position: int) -> Column:
        if position not in self._made:
            self._made[position] = self._make(position)
        return self._made[position]

    def bound(self, formula: str) -> Evaluate:
        """A formula over the columns, ready for any row. Raises FormulaError with the place when it cannot be used."""
        return bind(_parsed(formula), self._finder([]), self._around, self._as_written)

    def _role(self, position: int) -> Role:
        """The role of a column: set, that of its format, or money where its formula comes to money."""
        if position not in self._known_roles:
            settings = self._settings[position]
            # While it is looked for it is none, so that formulas in a circle come to an end.
            self._known_roles[position] = _set_role(settings) or Role.TEXT
            if _set_role(settings) is None and settings.formula and self._comes_to_money(settings.formula):
                self._known_roles[position] = Role.MONEY
        return self._known_roles[position]

    def _comes_to_money(self, formula: str) -> bool:
        try:
            return comes_to_money(_parsed(formula), self._is_money)
        except FormulaError:
            return False

    def _is_money(self, name: str) -> bool:
        position = self.position(name)
        return position is not None and self._role(position) is Role.MONEY

    def _as_in_links(self, node: Node, value: Evaluate) -> Evaluate:
        """A piece of a formula as it is joined to an address: amounts plain at their digits, days in ISO 8601."""
        money = comes_to_money(node, self._is_money)
        wanted = Format(Way.MONEY) if money else None

        def plain(row: int) -> Cell:
            found = value(row)
            return value_text(as_value(found, wanted, self.recipe.currency)) if isinstance(found, Decimal) else found

        return plain

    def _as_written(self, node: Node, value: Evaluate) -> Evaluate:
        """A piece of a formula as it is joined to a text: figures and days as their column, or money, is written."""
        name, money = said(node), comes_to_money(node, self._is_money)
        position = None if name is None else self.position(name)
        column = None if position is None else self.column(position)
        wanted = column.format if column else Format(Way.MONEY, strict=False) if money else None
        write = self._writer.writing(wanted)

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

    def outputs(self) -> dict[str, Callable[[int], Cell]]:
        """The computed columns by name, each giving a row's value for a file: money at its digits, None for none."""
        return {self.names[i]: self._output(i) for i in range(self.first_computed, len(self.names))}

    def _output(self, position: int) -> Callable[[int], Cell]:
        column, currency = self.column(position), self.recipe.currency

        def value(row: int) -> Cell:
            found = column.values[row]
            return None if isinstance(found, Unreadable) or found == "" else as_value(found, column.format, currency)

        return value

    def example(self, position: int) -> str:
        """The first filled cell of a column, as it stands in a text; "" when the first few are blank."""
        column = self.column(position)
        first = (column.shown[row] for row in range(min(self.groups.rows, 20)))
        return next((clipped(text) for text in first if isinstance(text, str)), "")

    def reading(self, position: int) -> Reading:
        """How a column of the sheet is read by its cells alone; nothing to tell of a computed one."""
        if position >= self.first_computed:
            return Reading()
        return self.workings.reading(position, self.roles[position], self.recipe)

    @property
    def doubled(self) -> tuple[str, ...]:
        """The columns that the sheet has and the set-up computes, where a text, a formula or a rule uses the name."""
        used = {column_key(name) for name in fields_in(self.recipe)}
        clashing = (name for i, name in enumerate(self.names) if i >= self.first_computed and self._clashes(i))
        return tuple(name for name in clashing if column_key(name) in used)

    @cached_property
    def asked_to_equal_numbers(self) -> tuple[tuple[str, int], ...]:
        """What asks a column to equal a number, by name, and that column, which is not one of figures."""
        asking = [(name, s.formula) for name, s in zip(self.names, self._settings, strict=True) if s.formula]
        asking += [(f'The rule "{rule.reason}"', rule.when) for rule in self.recipe.leave_out]
        found = dict.fromkeys(
            (name, position)
            for name, formula in asking
            for column in _asked_to_equal(formula, self._counts)
            if (position := self.position(column)) is not None
        )
        return tuple(found)

    def _counts(self, name: str) -> bool:
        position = self.position(name)
        return position is not None and self.roles[position].counts

    @cached_property
    def asked(self) -> tuple[int, ...]:
        """The columns whose reading is a question and which the round uses, in a text, a formula, a rule or a group."""
        recipe = self.recipe
        combine = recipe.combine
        used = {column_key(name) for name in (*fields_in(recipe), *((combine.by, *combine.columns) if combine else ()))}
        return tuple(place for place in self.workings.questions(recipe) if column_key(self.names[place]) in used)

    def lines_up(self, position: int) -> bool:
        """True for a column whose cells line up to the right: figures by its role or, without a format, its values."""
        column = self.column(position)
        if column.role.counts or column.format or position < self.first_computed:
            return column.role.counts
        first = (column.values[row] for row in range(min(self.groups.rows, 20)))
        return any(isinstance(value, Decimal) for value in first)

    def explained(self, position: int, row: int) -> str | None:
        """How a computed cell came about, in a line; None for a cell of the sheet, and for one without a value."""
        formula = self._settings[position].formula
        result = self.column(position).shown[row]
        if position < self.first_computed or formula is None or position in self.problems:
            return None
        if not isinstance(result, str):
            return None
        return explained(self._explainer(position), _parsed(formula), row, result)

    def _explainer(self, position: int) -> Explainer:
        if position not in self._explainers:
            wanted = self.column(position).format
            writer = self._writer
            amounts = wanted is not None and wanted.way is Way.MONEY
            self._explainers[position] = Explainer(
                self._shown_with_unit,
                lambda node: bind(node, self._finder([]), self._around, self._as_written),
                (lambda amount: str(writer.write(amount, wanted))) if amounts else None,
            )
        return self._explainers[position]

    def _shown_with_unit(self, node: FieldNode, row: int) -> str:
        position = self.position(node.name)
        column = None if position is None else self.column(position)
        if column is None:
            return f"{{{node.name}}}"
        shown = column.shown[row]
        if shown is None and column.role.counts:
            # A blank cell counts as nothing in a sum, and that is to be seen.
            shown = self._writer.write(ZERO, column.format)
        if not isinstance(shown, str):
            return "(blank)" if shown is None else f"'{clipped(shown.typed)}'"
        quoted = shown if column.role.counts or not isinstance(column.values[row], str) else f'"{clipped(shown)}"'
        unit = unit_of(column.name)
        return f"{quoted} {unit}" if unit and column.role.counts else quoted

    def _make(self, position: int) -> Column:
        if position < self.first_computed:
            values = self.workings.values(position, self.roles[position], self.recipe)
            key = self.workings.values_key(position, self.roles[position], self.recipe)
            return self._together(self._column(position, values, key, reads=frozenset({position})))
        self._making.append(position)
        try:
            if self._clashes(position):
                raise FormulaError(
                    0,
                    0,
                    f'The sheet has a column "{clipped(self.names[position])}" already.',
                    "Give the computed column a name of its own.",
                    column=self.names[position],
                )
            return self._computed(position)
        except FormulaError as fault:
            self.problems[position] = fault
            why = f"the formula of {self.names[position]} cannot be used"
            fault_cell = Fault(why, code=Code.VALUE, column=self.names[position])
            key = ("unusable", self.names[position], len(self.groups))
            return self._column(position, ByRow(len(self.groups), lambda _row: fault_cell), key)
        finally:
            self._making.pop()

    def _clashes(self, position: int) -> bool:
        return self._places[column_key(self.names[position])] != position

    def _grouped(self) -> Groups:
        """The rows that become one text. Rows whose key is blank, or whose number cannot be read, stand alone."""
        settings = self.recipe.combine
        if settings is None:
            return self.groups
        for name in (settings.by, *settings.columns):
            if self.position(name) is None:
                self.combine_problem = RecipeError(
                    f'Rows are to be combined by way of a column "{clipped(name)}", which is not there.',
                    f"There is {listed(self.names, 6)}.",
                    column=name,
                )
                return self.groups
        return grouped([self._group_key(row) for row in range(self.groups.rows)], self.left_out)

    def _group_key(self, row: int) -> str:
        position = self.position(self.recipe.combine.by) if self.recipe.combine else None
        if position is None:
            return ""
        if self.roles[position] is Role.MOBILE:
            number = self.number(position, row)
            return "" if number.problem else number.e164
        value = self.column(position).values[row]
        return "" if isinstance(value, Unreadable) else column_key(as_text(value))

    def number(self, position: int, row: int) -> Number:
        """The phone number a column has at a place; for a group it is the one that all its rows have."""
        if row >= self.groups.rows:
            members = self.groups.members[row - self.groups.rows]
            numbers = [self.number(position, member) for member in members]
            if len({number.e164 for number in numbers}) == 1:
                return numbers[0]
            where = listed([str(member + 1) for member in members])
            return Number(problem=f"the combined rows {where} have different numbers")
        if position < self.first_computed:
            return self._numbers(position)[row]
        value = self.column(position).values[row]
        if isinstance(value, Unreadable):
            return Number(problem=value.why)
        return number_of(value, self._country_cell(row), self.recipe.region, self.recipe.locale)

    def _numbers(self, position: int) -> ByRow[Number]:
        if position not in self._known_numbers:
            self._known_numbers[position] = self.workings.numbers(position, self.recipe)
        return self._known_numbers[position]

    def _country_cell(self, row: int) -> Cell:
        """What the row says of its country; None where no column does."""
        return None if self.country is None else self.workings.sheet.rows[row][self.country]

    @cached_property
    def country(self) -> int | None:
        """The column that says which country a row's number is of; None where there is none."""
        return self.workings.country(self.recipe)

    def region(self, row: int) -> str:
        """The country (ISO 3166-1) whose numbers a row has without their code: its own, or else the round's."""
        if self.country is None:
            return self.recipe.region
        return country_in(self._country_cell(row), self.recipe.locale) or self.recipe.region

    def _column(
        self, position: int, values: ByRow[Value], key: Hashable, levels: int = 0, reads: frozenset[int] = frozenset()
    ) -> Column:
        settings = self._settings[position]
        role = self.roles[position]
        wanted = format_from(settings.format) if settings.format else self._usual(position)
        write = self._writer.writing(wanted)

        def show(row: int) -> Shown:
            value = values[row]
            return value if isinstance(value, Unreadable) else write(value)

        shown_key = ("shown", key, wanted, self._writer)
        shown = self.workings.kept(shown_key, lambda: ByRow(len(values), show))
        return Column(self.names[position], role, wanted, values, shown, key, shown_key, levels, reads)

    def _usual(self, position: int) -> Format | None:
        """Figures that stand in percent in the sheet stay in percent; all else is written by its role.

        A formula that comes to money may come to words in some rows, which are written as they are.
        """
        role = self.roles[position]
        if role is Role.MONEY and position >= self.first_computed and self._settings[position].role is None:
            return Format(Way.MONEY, strict=False)
        figures = role is Role.NUMBER and position < self.first_computed
        if figures and self.workings.in_percent(position):
            return Format(Way.PERCENT)
        return usual_format(role)

    def _computed(self, position: int) -> Column:
        settings = self._settings[position]
        used: list[Column] = []
        if settings.formula is not None:
            node = _parsed(settings.formula)
            written = self._as_in_links if settings.role is Role.LINK else self._as_written
            evaluate = bind(node, self._finder(used), self._around, written)
            # What is joined to a text depends on how it is written.
            writes = (self._writer, tuple(column.shown_key for column in used)) if joins_text(node) else ()
            source: tuple[object, ...] = ("formula", settings.formula, self._outside, writes)
            levels = node.place.depth
        else:
            evaluate = self._link(settings.template or "", used)
            fallbacks = tuple(self.fallback(self._places[column_key(column.name)]) for column in used)
            source = ("template", settings.template, fallbacks, tuple(column.format for column in used))
            levels = 1
        levels += max((column.levels for column in used), default=0)
        if levels > MOST_LEVELS:
            end = len(settings.formula or settings.template or "")
            raise FormulaError(
                0,
                end,
                f"The formula builds on more than {MOST_LEVELS} levels of other formulas.",
                "Simplify some of them.",
            )
        places = len(self.groups)
        key = (*source, places, tuple(column.key for column in used))
        values: ByRow[Value] = self.workings.kept(key, lambda: ByRow(places, lambda row: _worked_out(evaluate, row)))
        reads = frozenset().union(*(column.reads for column in used))
        column = self._column(position, values, key, levels, reads)
        return self._together(column) if self._how(position) else column

    def _how(self, position: int) -> How | None:
        """What becomes of a column in a combined row; what the rows have in common may be written in several ways."""
        settings = self.recipe.combine
        if settings is None:
            return None
        by = self.position(settings.by) == position
        return settings.how(self.names[position]) or (How.FIRST if by else None)

    def _together(self, column: Column) -> Column:
        """The column with its groups' cells behind the rows' own."""
        groups = self.groups
        if not groups.members:
            return column
        how = self._how(self._places[column_key(column.name)])
        own, own_shown, locale, writer = column.values, column.shown, self.recipe.locale, self._writer
        wanted = column.format if how is None or how.keeps_format else None

        def value(place: int) -> Value:
            if place < groups.rows:
                return own[place]
            rows = groups.members[place - groups.rows]
            return combined(column.name, rows, own.__getitem__, own_shown.__getitem__, how, locale)

        # A list is made of what is shown, so its format counts as well.
        key = ("together", column.key, column.shown_key, groups.key, how)
        values: ByRow[Value] = self.workings.kept(key, lambda: ByRow(len(groups), value))

        def show(place: int) -> Shown:
            if place < groups.rows:
                return own_shown[place]
            found = values[place]
            return found if isinstance(found, Unreadable) else writer.write(found, wanted)

        shown_key = ("shown", key, wanted, writer)
        shown = self.workings.kept(shown_key, lambda: ByRow(len(groups), show))
        return replace(column, values=values, shown=shown, key=key, shown_key=shown_key)

    def _finder(self, used: list[Column]) -> Callable[[FieldNode], Evaluate]:
        """Looks fields up for `bind`, and notes in `used` which columns they were."""

        def find(node: FieldNode) -> Evaluate:
            position = self.position(node.name)
            if position is None:
                raise unknown_column(node, self.names)
            column = self._without_circle(position, node.place.start, node.place.end)
            used.append(column)
            return _value_of(column)

        return find

    def _without_circle(self, position: int, start: int, end: int) -> Column:
        if position in self._making:
            around = self._making[self._making.index(position) :]
            names = [self.names[i] for i in around]
            message = (
                f"{names[0]} is computed from itself."
                if len(names) == 1
                else f"{listed(names)} are computed from one another: {' → '.join((*names, names[0]))}."
            )
            raise FormulaError(start, end, message, "Take this field out of one of the formulas.", column=names[0])
        return self.column(position)

    def _link(self, template: str, used: list[Column]) -> Evaluate:
        refuse_address(template)
        bound = link_template(template, self.names)
        columns = {}
        for name in bound.columns:
            column = self._without_circle(self._places[column_key(name)], 0, len(template))
            columns[name] = column
            used.append(column)
        fallbacks = {name: self.fallback(self._places[column_key(name)]) for name in columns}
        currency = self.recipe.currency
        values = {name: _value_of(column) for name, column in columns.items()}

        def evaluate(row: int) -> Cell:
            def text_of(name: str) -> str | None:
                text = value_text(as_value(values[name](row), columns[name].format, currency)).strip()
                text = text or fallbacks[name] or ""
                if not text and name in bound.needed:
                    raise Wrong(Code.VALUE, f"{name} is blank", name)
                return text or None

            return bound.expand(text_of)

        return evaluate


def _set_role(settings: ColumnSettings) -> Role | None:
    """The role of a computed column: set, or that of its format; None where neither is."""
    if settings.template is not None:
        return Role.LINK
    if settings.role is not None:
        return settings.role
    return format_from(settings.format).way.role if settings.format else None


def _frozen(recipe: Recipe) -> Hashable:
    """What a formula may depend on besides its columns."""
    tables = tuple((name, tuple(table.items())) for name, table in recipe.lookups.items())
    return (recipe.as_of, recipe.locale, recipe.currency, tables)


def _asked_to_equal(formula: str, counts: Callable[[str], bool]) -> list[str]:
    try:
        return list(asked_to_equal_a_number(_parsed(formula), counts))
    except FormulaError:
        return []


@lru_cache(maxsize=256)
def _parsed(formula: str) -> Node:
    return parse_formula(formula)


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
        return Fault(wrong.why, code=wrong.code, column=wrong.column)
