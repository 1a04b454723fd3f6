"""All checks in the order they are made: what holds first, then what is worth a look."""

import importlib
import pkgutil
from collections.abc import Collection

from gentle_ledger.core.checks import each
from gentle_ledger.core.checks.model import DECLARED, Check, Finding, Level
from gentle_ledger.core.checks.view import RoundView

for _module in pkgutil.iter_modules(each.__path__):
    importlib.import_module(f"{each.__name__}.{_module.name}")

CHECKS: tuple[Check, ...] = tuple(
    sorted(DECLARED.values(), key=lambda check: (not check.level.holds, check.place, check.key))
)


def check_of(key: str) -> Check:
    """The check with that key."""
    return DECLARED[key]


def run_checks(
    view: RoundView, left_out: Collection[int] = (), released: Collection[int] = ()
) -> dict[str, list[Finding]]:
    """Every finding, by check, in the order of CHECKS; a check that finds nothing is not there.

    A row that is left out is not looked at; a row that one check holds is not looked at by the later ones, so that it
    is counted once. A released row passes the checks that may be released.
    """
    open_rows = [row for row in range(len(view.texts)) if row not in left_out]
    findings: dict[str, list[Finding]] = {}
    for check in CHECKS:
        found = list(check.find(view, open_rows))
        if check.level is Level.MAY_BE_RELEASED:
            found = [finding for finding in found if finding.row not in released]
        if not found:
            continue
        findings[check.key] = found
        if check.level.holds:
            held = {finding.row for finding in found}
            open_rows = [row for row in open_rows if row not in held]
    return findings
