"""A column of the sheet and a computed one have the same name."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.wording.uses import doubled

TWO = reason_kind("two columns of a name", "the sheet has a column {column}, and so has the set-up")


@check(
    key="two columns",
    level=Level.HOLDS,
    place=20,
    doc="The sheet has a column of the same name as one that the set-up computes: it is to be said which counts.",
    do="Say at the top whether the sheet's column counts or the computed one.",
    mends=(),
    sentence=lambda findings: f"There are two columns {findings[0].about('column')}: say which counts",
)
def two_columns(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column in doubled(view.composer.recipe, view.composer.columns)[:1]:
        for row in rows:
            yield Finding("two columns", row, TWO(column=column), column)
