"""The wording itself cannot be used."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import first_reason
from gentle_ledger.core.checks.view import RoundView

PROBLEM = reason_kind("wording unusable", "{problem}")


@check(
    key="wording",
    level=Level.HOLDS,
    place=10,
    doc="The row's wording has a field that is not closed or that no column answers to: no text can be made.",
    do="Mend the field in the wording: it needs a column's name between its brackets.",
    mends=(),
    sentence=first_reason,
)
def wording(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    problems = {id(each): each.problems[0].message.rstrip(".") for each in view.composer.wordings if each.problems}
    for row in rows if problems else ():
        if problem := problems.get(id(view.wordings[row])):
            yield Finding("wording", row, PROBLEM(problem=problem))
