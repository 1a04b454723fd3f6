"""Whether a recipe and a sheet belong together, where nobody is there to mend it. The desk shows it as findings."""

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.checks.registry import refuse_levels
from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.core.wording.uses import paced_by


def refuse_misfit(composer: Composer) -> None:
    """Raises RecipeError, naming the column or the formula, when recipe and sheet cannot belong together."""
    recipe, sheet = composer.recipe, composer.readings.sheet
    _refuse_columns(recipe, sheet)
    refuse_levels(recipe.checks)
    for position, problem in composer.evaluation.problems.items():
        raise _unusable(f"The formula of {clipped(composer.columns.names[position])}", problem)
    for rule in composer.evaluation.rules:
        if rule.problem:
            raise _unusable(f'The rule "{clipped(rule.name)}"', rule.problem)
    if composer.combine_problem:
        raise composer.combine_problem
    for condition in composer.conditions:
        if condition.problem:
            raise _unusable(f'The condition of the wording "{clipped(condition.name)}"', condition.problem)
    for wording in composer.wordings:
        for found in wording.problems[:1]:
            what = f'The wording "{clipped(wording.name)}"' if wording.name else "The wording"
            raise RecipeError(f"{what} cannot be used: {found.message} (character {found.start + 1})", found.remedy)
    if composer.mobile is None:
        raise RecipeError(
            "No column of the sheet is recognised as the mobile number.",
            'Name it in the recipe: [columns."…"] role = "mobile number".',
        )


def _unusable(what: str, problem: FormulaError) -> RecipeError:
    at = f" (character {problem.start + 1})" if problem.end else ""
    return RecipeError(f"{what} cannot be used: {problem.what}{at}", problem.remedy, column=problem.column)


def _refuse_columns(recipe: Recipe, sheet: Sheet) -> None:
    for name, settings in recipe.columns.items():
        if sheet.position(name) is None and not settings.computed:
            raise RecipeError(
                f'The recipe has settings for a column "{clipped(name)}" that the sheet lacks.',
                f"The sheet has {listed(sheet.columns, 6)}.",
                column=name,
            )
    for name in paced_by(recipe, sheet.columns):
        if sheet.position(name) is None and not recipe.setting(name).computed:
            raise RecipeError(
                f'The pace goes by a column "{clipped(name)}" that the sheet lacks.',
                f"The sheet has {listed(sheet.columns, 6)}.",
                column=name,
            )
    keys = [column_key(name) for name in recipe.columns]
    if len(set(keys)) < len(keys):
        raise RecipeError("The recipe has settings for one column under two spellings.", "Keep one of them.")
    mobile = [name for name, s in recipe.columns.items() if s.role is Role.MOBILE]
    if len(mobile) > 1:
        raise RecipeError(
            f"The recipe calls {listed(mobile)} mobile numbers; a text goes to one number.",
            "Give the role to one column.",
        )
