"""Which wording is the row's cannot be said."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

UNDECIDED = reason_kind("wording undecided", 'the condition of the wording "{wording}" cannot be decided: {why}')


def _sentence(findings: Sequence[Finding]) -> str:
    first = findings[0].reason.sentence
    return f"{first[:1].upper()}{first[1:]} ({count(len(findings), 'row')})"


@check(
    key="which wording",
    level=Level.HOLDS,
    place=95,
    doc="The condition of a wording comes to an error, so that nobody can say which wording is the row's.",
    do="Mend the cell that the condition cannot read, or the condition.",
    sentence=_sentence,
)
def which_wording(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.composer.conditions else ():
        if (undecided := view.undecided(row)) is not None:
            yield Finding("which wording", row, UNDECIDED(wording=undecided.name, why=undecided.why))
