"""A cell could be read in two ways."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import in_rows
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.wording.uses import awaited

OPEN = reason_kind("reading in question", "{column}: {why}")


@check(
    key="question",
    level=Level.HOLDS,
    place=40,
    doc="Amounts or days in the row could be read in two ways, and the column does not tell in which.",
    do="Answer the question about the column at the top: which way its figures or days are read.",
    mends=(),
    sentence=lambda findings: f"It is a question how to read {in_rows(findings, 'column')}",
)
def question(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    waiting = _waiting(view)
    for row in rows if waiting else ():
        if row in waiting:
            column, why = waiting[row]
            yield Finding("question", row, OPEN(column=column, why=why), column)


def _waiting(view: RoundView) -> dict[int, tuple[str, str]]:
    """The rows that wait for an answer to how a column is read: that column, and why."""
    composer, found = view.composer, dict[int, tuple[str, str]]()
    for position in awaited(composer.recipe, composer.columns, composer.readings):
        values = composer.column(position).values.whole()
        for row in range(composer.groups.rows):
            if isinstance(value := values[row], Unreadable) and value.asks:
                found.setdefault(view.lead(row), (composer.columns.names[position], value.why))
    return found
