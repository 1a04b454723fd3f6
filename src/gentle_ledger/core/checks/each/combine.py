"""Rows cannot be combined as is set."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import first_reason
from gentle_ledger.core.checks.view import RoundView

CANNOT = reason_kind("cannot combine", "{problem}")


@check(
    key="combine",
    level=Level.HOLDS,
    place=30,
    doc="Rows are to be combined by a column that is not there: one person might get several texts.",
    do="Choose the column that rows are combined by once more, or combine none.",
    mends=(),
    sentence=first_reason,
)
def combine(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    problem = view.composer.combine_problem
    for row in rows if problem else ():
        yield Finding("combine", row, CANNOT(problem=problem.what.rstrip(".") if problem else ""))
