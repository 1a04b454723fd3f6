"""Several rows have the same number."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

NAMED = 4
"""Other rows of the same number that are named; the rest is counted."""

SAME = reason_kind("number shared", lambda number, rows: f"same number as row {rows}")


def _sentence(findings: Sequence[Finding]) -> str:
    stand = count(len(counted(findings, "number")), "number stands", "numbers stand")
    return f"{stand} in {count(len(findings), 'row')} with different texts; they can be combined into one"


@check(
    key="same number",
    level=Level.LOOK,
    place=110,
    label="same number",
    doc="Several rows have the same number: one person would get several texts.",
    do="Combine the rows of one person into one text, or see whether a number stands in the wrong row.",
    sentence=_sentence,
)
def same_number(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    sharing: dict[str, list[int]] = {}
    for row in rows:
        sharing.setdefault(view.numbers[row].e164, []).append(row)
    for number, shared in sharing.items():
        for row in shared if number and len(shared) > 1 else ():
            yield Finding("same number", row, SAME(number=number, rows=_others(shared, row)), view.mobile_column)


def _others(shared: Sequence[int], row: int) -> str:
    """The other rows. A number may stand in thousands of them: the first few are named, the rest counted."""
    named = [str(other + 1) for other in shared[: NAMED + 1] if other != row][:NAMED]
    rest = len(shared) - 1 - len(named)
    return f"{', '.join(named)} and {rest:,} more" if rest else listed(named)
