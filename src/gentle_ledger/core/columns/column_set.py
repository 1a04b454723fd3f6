"""The columns of a round by name: which there are, what each is for, and in which order they can be worked out."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache
from graphlib import CycleError, TopologicalSorter

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.columns.links import names_in
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.formulas.kinds import comes_to_money
from gentle_ledger.core.formulas.parse import FormulaError, parse_formula
from gentle_ledger.core.formulas.tree import Node, fields_of
from gentle_ledger.core.recipe.format import format_from
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe

Use = tuple[int, int, int]
"""A column that a formula or a template uses, by its position, and where its name stands there: from, up to."""


@dataclass(frozen=True)
class ColumnSet:
    """The columns of the sheet, then those that are computed.

    Attributes:
        names: as the sheet or the recipe has them.
        settings: what the clerk set for each.
        roles: what each is for: set, that of its format, or money where its formula comes to money.
        first_computed: the position of the first computed column, right behind the last one of the sheet.
        order: the positions of the computed columns, each behind those that it is computed from.
        problems: the computed columns that cannot be used because of their name, or because they build on themselves.
    """

    names: tuple[str, ...]
    settings: tuple[ColumnSettings, ...]
    roles: tuple[Role, ...]
    first_computed: int
    order: tuple[int, ...]
    problems: Mapping[int, FormulaError]

    @cached_property
    def _places(self) -> dict[str, int]:
        return _places_of(self.names)

    def position(self, name: str) -> int | None:
        """Where the column of that name stands, in any case; None when there is none."""
        return self._places.get(column_key(name))

    def fallback(self, position: int) -> str | None:
        """What fills a column's blanks; None when nothing was set."""
        text = self.settings[position].fallback
        return text.strip() or None if text else None

    def is_money(self, name: str) -> bool:
        """Whether the column of that name is one of amounts."""
        position = self.position(name)
        return position is not None and self.roles[position] is Role.MONEY

    def counts(self, name: str) -> bool:
        """Whether the column of that name is one of figures."""
        position = self.position(name)
        return position is not None and self.roles[position].counts

    def clashing(self) -> list[str]:
        """The computed columns whose name the sheet has as well."""
        computed = enumerate(self.names[self.first_computed :], self.first_computed)
        return [name for place, name in computed if self._places[column_key(name)] != place]


@lru_cache(maxsize=256)
def parsed(formula: str) -> Node:
    """The tree of a formula. Raises FormulaError with the place."""
    return parse_formula(formula)


def column_set(readings: Readings, recipe: Recipe) -> ColumnSet:
    """The columns of a sheet with a recipe. Raises nothing: what cannot be used is among its problems."""
    sheet = readings.sheet
    computed = {name: settings for name, settings in recipe.columns.items() if settings.computed}
    names = (*sheet.columns, *computed)
    settings = (*(recipe.setting(name) for name in sheet.columns), *computed.values())
    places = _places_of(names)
    problems: dict[int, FormulaError] = {}
    uses: dict[int, list[Use]] = {}
    for position in range(len(sheet.columns), len(names)):
        uses[position] = _uses(settings[position], places)
        if places[column_key(names[position])] != position:
            problems[position] = _taken(names[position])
    order, circles = _in_order(names, uses)
    roles = _with_computed(readings.roles(recipe), names, settings, places, order)
    found = {**circles, **problems}
    return ColumnSet(
        names, settings, roles, len(sheet.columns), order, {place: found[place] for place in sorted(found)}
    )


def _places_of(names: tuple[str, ...]) -> dict[str, int]:
    """The position of each column by its name; of two with one name the first."""
    return {column_key(name): place for place, name in reversed(list(enumerate(names)))}


def _taken(name: str) -> FormulaError:
    what = f'The sheet has a column "{clipped(name)}" already.'
    return FormulaError(0, 0, what, "Give the computed column a name of its own.", column=name)


def _uses(settings: ColumnSettings, places: Mapping[str, int]) -> list[Use]:
    """The columns that a computed column is made from; of what cannot be read, none."""
    if settings.template is not None:
        end = len(settings.template)
        found = [(name, 0, end) for name, _, _ in names_in(settings.template)]
    else:
        try:
            fields = fields_of(parsed(settings.formula or ""))
        except FormulaError:
            return []
        found = [(field.name, field.place.start, field.place.end) for field in fields]
    known = ((places.get(column_key(name)), start, end) for name, start, end in found)
    return [(place, start, end) for place, start, end in known if place is not None]


def _in_order(names: tuple[str, ...], uses: Mapping[int, list[Use]]) -> tuple[tuple[int, ...], dict[int, FormulaError]]:
    """The computed columns, each behind what it is made from, and those that are made from themselves."""
    graph = {position: {place for place, _, _ in used if place in uses} for position, used in uses.items()}
    problems: dict[int, FormulaError] = {}
    while True:
        try:
            return tuple(TopologicalSorter(graph).static_order()), problems
        except CycleError as fault:
            # Each of the circle stands in front of the one that is made from it.
            around = list(reversed(fault.args[1]))[:-1]
            for place, position in enumerate(around):
                turned = [*around[place:], *around[:place]]
                problems[position] = _circle(names, turned, uses[position])
                graph[position] = set()


def _circle(names: tuple[str, ...], around: list[int], used: list[Use]) -> FormulaError:
    said = [names[position] for position in around]
    message = (
        f"{said[0]} is computed from itself."
        if len(said) == 1
        else f"{listed(said)} are computed from one another: {' → '.join((*said, said[0]))}."
    )
    following = around[1 % len(around)]
    start, end = next((start, end) for place, start, end in used if place == following)
    return FormulaError(start, end, message, "Take this field out of one of the formulas.", column=said[0])


def _with_computed(
    known: tuple[Role, ...],
    names: tuple[str, ...],
    settings: tuple[ColumnSettings, ...],
    places: Mapping[str, int],
    order: tuple[int, ...],
) -> tuple[Role, ...]:
    """The roles of all columns; what is computed from money is money, unless something else was set."""
    roles = [*known, *[Role.TEXT] * (len(names) - len(known))]

    def is_money(name: str) -> bool:
        place = places.get(column_key(name))
        return place is not None and roles[place] is Role.MONEY

    for position in order:
        formula = settings[position].formula
        role = _set_role(settings[position])
        if role is None and formula and _comes_to_money(formula, is_money):
            role = Role.MONEY
        roles[position] = role or Role.TEXT
    return tuple(roles)


def _comes_to_money(formula: str, is_money: Callable[[str], bool]) -> bool:
    try:
        return comes_to_money(parsed(formula), is_money)
    except FormulaError:
        return False


def _set_role(settings: ColumnSettings) -> Role | None:
    """The role of a computed column: set, or that of its format; None where neither is."""
    if settings.template is not None:
        return Role.LINK
    if settings.role is not None:
        return settings.role
    return format_from(settings.format).kind.role if settings.format else None
