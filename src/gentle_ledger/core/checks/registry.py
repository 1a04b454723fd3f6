"""All checks in the order they are made: what holds first, then what is worth a look."""

import importlib
import pkgutil
from collections.abc import Collection, Mapping
from difflib import get_close_matches

from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.checks import each
from gentle_ledger.core.checks.model import DECLARED, Check, Finding, Level
from gentle_ledger.core.checks.release import Release
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.recipe.model import CheckLevel, Recipe

for _module in pkgutil.iter_modules(each.__path__):
    importlib.import_module(f"{each.__name__}.{_module.name}")

CHECKS: tuple[Check, ...] = tuple(
    sorted(DECLARED.values(), key=lambda check: (not check.level.holds, check.place, check.key))
)


def check_of(key: str) -> Check:
    """The check with that key."""
    return DECLARED[key]


def levels_in(recipe: Recipe) -> dict[str, Level]:
    """The checks that are made of a round, in their order, each with what it does there."""
    levels = [(check, check.level_for(recipe.checks)) for check in CHECKS]
    made = {check.key: level for check, level in levels if level is not None}
    return dict(sorted(made.items(), key=lambda pair: not pair[1].holds))


def refuse_levels(levels: Mapping[str, CheckLevel]) -> None:
    """Raises RecipeError for a check that there is not, or that no round may set another level for."""
    for key, level in levels.items():
        found = DECLARED.get(key)
        if found is None:
            close = get_close_matches(key, DECLARED, 1)
            remedy = f'Perhaps "{close[0]}" is meant.' if close else f"There are {listed(sorted(DECLARED), 60)}."
            raise RecipeError(f'There is no check called "{clipped(key)}".', remedy)
        if found.fixed and level is not CheckLevel.HOLDS:
            raise RecipeError(f'The check "{key}" always holds the rows that it finds.', "Take it out of the levels.")


def run_checks(
    view: RoundView,
    levels: Mapping[str, Level],
    left_out: Collection[int] = (),
    released: Mapping[int, Release] | None = None,
    first: Collection[int] = (),
) -> tuple[dict[str, list[Finding]], dict[int, list[Finding]]]:
    """Every finding, by check, in the order of the levels; and by row what would hold it, had it not been let go.

    A check that finds nothing is not there. A row that is left out is not looked at; a row that one check holds is not
    looked at by the later ones, so that it is counted once. A released row passes what it was released from. Of rows
    that are alike it is the later ones that are held; those in `first` count as if they stood above all others.
    """
    open_rows = [row for row in range(len(view.texts)) if row not in left_out]
    if first:
        open_rows.sort(key=lambda row: row not in first)
    findings: dict[str, list[Finding]] = {}
    let_go: dict[int, list[Finding]] = {}
    for key, level in levels.items():
        found = list(DECLARED[key].find(view, open_rows))
        if level is Level.MAY_BE_RELEASED and released:
            kept = []
            for each in found:
                if each.row in released and released[each.row].covers(each):
                    let_go.setdefault(each.row, []).append(each)
                else:
                    kept.append(each)
            found = kept
        if not found:
            continue
        findings[key] = found
        if level.holds:
            held = {finding.row for finding in found}
            open_rows = [row for row in open_rows if row not in held]
    return findings, let_go
