"""All checks in the order they are made: what holds first, then what is odd."""

from collections.abc import Collection

from gentle_ledger.core.checks.holding import HOLDING
from gentle_ledger.core.checks.looking import LOOKING
from gentle_ledger.core.checks.model import Check, Finding, RoundView
from gentle_ledger.core.rows import CourteousRows, GiveWay, stay

CHECKS: tuple[Check, ...] = (*HOLDING, *LOOKING)


_BY_KEY = {check.key: check for check in CHECKS}


def check_of(key: str) -> Check:
    return _BY_KEY[key]


def run_checks(
    view: RoundView,
    rows: int,
    left_out: Collection[int] = (),
    released: Collection[int] = (),
    give_way: GiveWay = stay,
) -> list[Finding]:
    """Every finding, in the order of CHECKS.

    A row that is left out is not looked at; a row that one check holds is not looked at by the later ones, so that it
    is counted once. A released row passes the checks that may be released.
    """
    open_rows = [row for row in range(rows) if row not in left_out]
    findings: list[Finding] = []
    for check in CHECKS:
        found = list(check.find(view, CourteousRows(open_rows, give_way)))
        if check.releasable:
            found = [finding for finding in found if finding.row not in released]
        findings += found
        if check.holds and found:
            held = {finding.row for finding in found}
            open_rows = [row for row in open_rows if row not in held]
    return findings
