"""A cell that the wording uses is blank."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView


def _says(columns: str, several: bool) -> str:
    return f"{columns} {'are' if several else 'is'} blank"


BLANK = reason_kind("cell blank", _says)


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{columns} is blank in {count(n, 'row')}" for columns, n in counted(findings, "columns")]
    return f"{listed(shown, 3)}; a text when blank can be set"


@check(
    key="blank",
    level=Level.HOLDS,
    place=60,
    doc="A cell that the wording uses is blank and its column has no text for that.",
    do="Fill the cell in, or give the column words that stand in the text when it is blank.",
    sentence=_sentence,
)
def blank(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        missing = [gap.column for gap in view.gaps[row] if gap.why is None]
        if missing:
            yield Finding("blank", row, BLANK(columns=listed(missing), several=len(missing) > 1), missing[0])
