"""A text of many parts."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

MANY_PARTS = 4
"""Parts from which a text is dear enough to be looked at, whatever the others take; a figure of ours."""

LARGE = reason_kind("text large", "the text takes {parts} parts and costs as much as {parts} texts")


def _sentence(findings: Sequence[Finding]) -> str:
    parts = [int(finding.about("parts")) for finding in findings]
    largest = findings[parts.index(max(parts))]
    what = count(len(findings), "text takes", "texts take")
    cost = f"together they cost as much as {sum(parts):,} texts of one part"
    return f"{what} {MANY_PARTS} parts or more, row {number_of_row(largest.row)} the most with {max(parts)}; {cost}"


@check(
    key="large",
    level=Level.LOOK,
    place=30,
    label="very long",
    doc=f"The text takes {MANY_PARTS} parts or more, each of which costs as much as a text.",
    do="Shorten the wording, or see what makes the text so long under what the texts weigh.",
    sentence=_sentence,
)
def large(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if (parts := view.measures[row].parts) >= MANY_PARTS:
            yield Finding("large", row, LARGE(parts=parts))
