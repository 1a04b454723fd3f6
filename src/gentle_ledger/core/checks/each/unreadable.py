"""A cell that the wording uses is not what its column is for."""

from collections import Counter
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

UNREADABLE = reason_kind("cell unreadable", "{column}: {why}", "{column} cannot be read")
NO_VALUE = reason_kind("formula without value", "{column}: {why}", "{column} has no value")
"""Their parameter `because` is the code of the cell's own reason."""


def _sentence(findings: Sequence[Finding]) -> str:
    headings = Counter(finding.reason.heading for finding in findings).most_common()
    shown = [f"{heading} in {count(n, 'row')}" for heading, n in headings]
    first = findings[0]
    return f"{listed(shown, 3)}; in row {number_of_row(first.row)}, {first.about('why')}"


@check(
    key="unreadable",
    level=Level.HOLDS,
    place=70,
    doc="A cell that the wording uses is not what its column is for, such as a word among amounts, or its formula has "
    "no value.",
    do="Mend the cell, or press the small word above the column's name and say what the column is for.",
    sentence=_sentence,
)
def unreadable(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        for gap in view.gaps[row]:
            if gap.why is not None:
                kind = NO_VALUE if gap.computed else UNREADABLE
                why = gap.why
                yield Finding(
                    "unreadable", row, kind(column=gap.column, because=why.code, why=why.sentence), gap.column
                )
                break
