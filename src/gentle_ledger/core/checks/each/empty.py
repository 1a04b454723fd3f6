"""There is nothing in the text."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView


def _says(why: str) -> str:
    return f"no text can be made: {why}" if why else "the text is empty"


EMPTY = reason_kind("text empty", _says)


def _sentence(findings: Sequence[Finding]) -> str:
    if any(finding.about("why") for finding in findings):
        return f"No text can be made in {count(len(findings), 'row')}: {findings[0].about('why')}"
    return "The wording is empty: write what each row should read" if len(findings) > 1 else "1 text is empty"


@check(
    key="empty",
    level=Level.HOLDS,
    fixed=True,
    place=100,
    doc="There is nothing in the text.",
    do="Write a wording, or see why the cell that holds the text is blank.",
    mends=(),
    sentence=_sentence,
)
def empty(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if not view.texts[row].strip():
            yield Finding("empty", row, EMPTY(why=_why(view, row)))


def _why(view: RoundView, row: int) -> str:
    """Why no text could be made, where the check that says so is not made in this round."""
    wording, gaps = view.wordings[row], view.gaps[row]
    if wording is None:
        return "which wording is the row's cannot be said"
    if wording.problems:
        return wording.problems[0].message.rstrip(".")
    return listed([gap.why.sentence if gap.why else f"{gap.column} is blank" for gap in gaps])
