"""There is nothing in the text."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

EMPTY = reason_kind("text empty", "the text is empty")


@check(
    key="empty",
    level=Level.HOLDS,
    place=100,
    doc="There is nothing in the text.",
    sentence=lambda findings: (
        "The wording is empty: write what each row should read" if len(findings) > 1 else "1 text is empty"
    ),
)
def empty(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if not view.texts[row].strip():
            yield Finding("empty", row, EMPTY())
