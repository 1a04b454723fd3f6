"""Which columns a round uses by name, and what is to be said of them."""

from collections.abc import Callable, Collection

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.columns.column_set import ColumnSet, parsed
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.formulas.kinds import asked_to_equal_a_number
from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import column_of_order
from gentle_ledger.core.wording.renaming import fields_in


def unmatched(recipe: Recipe, columns: ColumnSet) -> tuple[str, ...]:
    """The columns that the set-up speaks of and that are not there, as an earlier sheet called them."""
    named = [name for name, settings in recipe.columns.items() if not settings.computed]
    named += [*_combining(recipe), *fields_in(recipe), *paced_by(recipe, columns.names)]
    missing = {column_key(name): " ".join(name.split()) for name in named if columns.position(name) is None}
    return tuple(name for key, name in missing.items() if key)


def doubled(recipe: Recipe, columns: ColumnSet) -> tuple[str, ...]:
    """The columns that the sheet has and the set-up computes, where a text, a formula or a condition uses the name."""
    used = {column_key(name) for name in fields_in(recipe)}
    return tuple(name for name in columns.clashing() if column_key(name) in used)


def awaited(recipe: Recipe, columns: ColumnSet, readings: Readings) -> tuple[int, ...]:
    """The columns whose reading is a question and which the round uses, in a text, a formula, a rule or a group."""
    names = (*fields_in(recipe), *_combining(recipe), *paced_by(recipe, columns.names))
    used = {column_key(name) for name in names}
    return tuple(place for place in readings.questions(recipe) if column_key(columns.names[place]) in used)


def asked_to_equal_numbers(recipe: Recipe, columns: ColumnSet) -> tuple[tuple[str, int], ...]:
    """What asks a column to equal a number, by name, and that column, which is not one of figures."""
    named = zip(columns.names, columns.settings, strict=True)
    asking = [(name, settings.formula) for name, settings in named if settings.formula]
    asking += [(f'The condition of "{wording.name}"', wording.when) for wording in recipe.wordings]
    asking += [(f'The rule "{rule.reason}"', rule.when) for rule in recipe.leave_out]
    found = dict.fromkeys(
        (name, position)
        for name, formula in asking
        for column in _asked_to_equal(formula, columns.counts)
        if (position := columns.position(column)) is not None
    )
    return tuple(found)


def paced_by(recipe: Recipe, names: Collection[str]) -> tuple[str, ...]:
    """The columns that the pace goes by; an order is by the column of just that name where there is one."""
    keys = {column_key(name) for name in names}
    order = recipe.pace.order
    by = order if order and column_key(order) in keys else column_of_order(order or "")
    return tuple(name for name in (recipe.pace.at, recipe.pace.zone, by) if name)


def _combining(recipe: Recipe) -> tuple[str, ...]:
    return (recipe.combine.by, *recipe.combine.columns) if recipe.combine else ()


def _asked_to_equal(formula: str, counts: Callable[[str], bool]) -> list[str]:
    try:
        return list(asked_to_equal_a_number(parsed(formula), counts))
    except FormulaError:
        return []
