"""Several columns have numbers, and it is not plain which of them texts go to."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

WHICH = reason_kind(
    "which number",
    lambda column, others: (
        f"is {clipped(column)} where texts go to, or {others}?" if others else f"do texts go to {clipped(column)}?"
    ),
)


@check(
    key="which number",
    level=Level.HOLDS,
    fixed=True,
    place=45,
    doc="Several columns have phone numbers, and neither names nor cells say plainly which of them texts go to; or the "
    "only one seems to be an old number, a fax or somebody else's.",
    do="Say at the top which column has the numbers that texts go to.",
    mends=(),
    sentence=lambda findings: f"It is a question which column texts go to: {findings[0].reason.sentence}",
)
def which_number(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer = view.composer
    found = composer.readings.number_columns(composer.recipe)
    if not found.doubtful or found.chosen is None or not rows:
        return
    names = composer.columns.names
    reason = WHICH(column=names[found.chosen], others=listed([clipped(names[i]) for i in found.rivals]))
    for row in rows:
        yield Finding("which number", row, reason, names[found.chosen])
