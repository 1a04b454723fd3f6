"""The same text to the same number, a second time in the round."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

REPEAT = reason_kind("repeats a row", "same number and same text as row {row}")


@check(
    key="repeat",
    level=Level.MAY_BE_RELEASED,
    place=120,
    doc="The same text would go to the same number a second time. The first of the rows stays ready.",
    do="Leave the later row out, or combine both into one text.",
    sentence=lambda findings: f"{count(len(findings), 'row repeats', 'rows repeat')} another row's number and text",
)
def repeat(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    first: dict[tuple[str, str], int] = {}
    for row in rows:
        key = (view.numbers[row].e164, view.texts[row])
        if (earlier := first.setdefault(key, row)) != row:
            yield Finding("repeat", row, REPEAT(row=earlier + 1), view.mobile_column)
