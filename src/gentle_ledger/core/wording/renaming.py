"""A column called by another name in all that uses it, at the places that the parsers give.

A text in double quotes within a formula is a text, whatever brackets stand in it.
"""

from collections.abc import Iterable

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.columns.links import names_in
from gentle_ledger.core.formulas.parse import FormulaError, parse_formula
from gentle_ledger.core.formulas.tree import fields_of
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.wording.parse import parse_wording

Named = tuple[str, int, int]
"""A column's name, and where it stands: from one character up to another."""


def in_wording(wording: str) -> list[Named]:
    """The fields of a wording."""
    return [(field.name, field.start + 1, field.end - 1) for field in parse_wording(wording).fields]


def in_formula(formula: str) -> list[Named]:
    """The fields of a formula; none of one that cannot be read, which is an error of its own."""
    try:
        node = parse_formula(formula)
    except FormulaError:
        return []
    return [(field.name, field.place.start + 1, field.place.end - 1) for field in fields_of(node)]


def fields_in(recipe: Recipe) -> list[str]:
    """Every column that a wording or its condition, a formula, a template or a rule names."""
    found = in_wording(recipe.wording)
    for wording in recipe.wordings:
        found += in_formula(wording.when) + in_wording(wording.text)
    for rule in recipe.leave_out:
        found += in_formula(rule.when)
    for settings in recipe.columns.values():
        found += in_formula(settings.formula or "") + names_in(settings.template or "")
    return [name for name, _, _ in found]


def uses_of(recipe: Recipe, column: str) -> list[str]:
    """What in a recipe speaks of a column, in the clerk's words: a wording, combining, a rule, a formula."""
    key = column_key(column)

    def names(found: Iterable[Named]) -> bool:
        return any(column_key(name) == key for name, _, _ in found)

    found = ["the wording"] if names(in_wording(recipe.wording)) else []
    for wording in recipe.wordings:
        if names(in_wording(wording.text)) or names(in_formula(wording.when)):
            found.append(f"the wording “{wording.name}”")
    if recipe.combine and key in map(column_key, (recipe.combine.by, *recipe.combine.columns)):
        found.append("combining")
    found += [f"the rule “{rule.reason}”" for rule in recipe.leave_out if names(in_formula(rule.when))]
    for name, settings in recipe.columns.items():
        if names(in_formula(settings.formula or "")) or names(names_in(settings.template or "")):
            found.append(name)
    return found


def without(recipe: Recipe, column: str) -> Recipe:
    """A recipe that no longer combines or leaves out by a column, and has no settings for it.

    A wording or a formula that names it stays as it is: there, it is for the clerk to say what should stand instead.
    """
    key = column_key(column)
    combine = recipe.combine
    if combine and column_key(combine.by) == key:
        combine = None
    elif combine:
        kept = {name: how for name, how in combine.columns.items() if column_key(name) != key}
        combine = combine.model_copy(update={"columns": kept})
    rules = (r for r in recipe.leave_out if all(column_key(name) != key for name, _, _ in in_formula(r.when)))
    columns = {name: s for name, s in recipe.columns.items() if s.computed or column_key(name) != key}
    return recipe.model_copy(
        update={
            "combine": combine,
            "leave_out": tuple(rules),
            "columns": columns,
            "pace": recipe.pace.without(column),
        }
    )


def renamed(recipe: Recipe, column: str, name: str) -> Recipe:
    """A recipe in which a column has another name."""
    key = column_key(column)

    def swap(text: str, places: Iterable[Named]) -> str:
        for called, start, end in sorted(places, key=lambda place: -place[1]):
            if column_key(called) == key:
                text = text[:start] + name + text[end:]
        return text

    def swap_settings(settings: ColumnSettings) -> ColumnSettings:
        changes = {}
        if settings.formula is not None:
            changes["formula"] = swap(settings.formula, in_formula(settings.formula))
        if settings.template is not None:
            changes["template"] = swap(settings.template, names_in(settings.template, whole=column))
        return settings.model_copy(update=changes)

    def of(called: str) -> str:
        return name if column_key(called) == key else called

    return recipe.model_copy(
        update={
            "wording": swap(recipe.wording, in_wording(recipe.wording)),
            "wordings": tuple(
                each.model_copy(
                    update={
                        "when": swap(each.when, in_formula(each.when)),
                        "text": swap(each.text, in_wording(each.text)),
                    }
                )
                for each in recipe.wordings
            ),
            "columns": {of(called): swap_settings(settings) for called, settings in recipe.columns.items()},
            "sent_columns": {of(called): said for called, said in recipe.sent_columns.items()},
            "combine": recipe.combine and recipe.combine.renamed(column, name),
            "pace": recipe.pace.renamed(column, name),
            "leave_out": tuple(
                rule.model_copy(update={"when": swap(rule.when, in_formula(rule.when))}) for rule in recipe.leave_out
            ),
        }
    )
