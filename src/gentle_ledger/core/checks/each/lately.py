"""The same person was texted lately, about whatever."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.each.same_matter import codes_of
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

LATELY = reason_kind("texted lately", lambda where: f"a text to this number {where}")


@check(
    key="lately",
    level=Level.LOOK,
    place=52,
    label="texted recently",
    doc="Another round sent any text to the same number within the days that are set for that, a week unless changed.",
    do="See whether two texts within so few days are wanted; if not, leave the row out.",
    sentence=lambda findings: f"{count(len(findings), 'person was', 'people were')} texted within the last days",
)
def lately(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    history = view.history
    for row in rows if history.lately else ():
        number = view.numbers[row].e164
        before = history.lately.get(number)
        # What is about the same reference is said with more words already.
        if before and not any((number, code) in history.codes for code in codes_of(view, row)):
            yield Finding("lately", row, LATELY(where=before.said), view.mobile_column)
