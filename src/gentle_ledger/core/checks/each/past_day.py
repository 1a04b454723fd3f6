"""A day in the text is over."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.due_days import first_days
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

PAST = reason_kind("day past", "{column} is {day}, which is over")


def _sentence(findings: Sequence[Finding]) -> str:
    return f"{count(len(findings), 'text speaks', 'texts speak')} of a day that is over: {findings[0].reason.sentence}"


@check(
    key="past day",
    level=Level.LOOK,
    place=72,
    label="with a day that is over",
    doc="A day in the text lies before the round's own date.",
    do="See whether the day is over on purpose, as with days since when something is late; if not, mend it.",
    sentence=_sentence,
)
def past_day(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    today = view.today
    if today is None:
        return
    for row, column, day in first_days(view, rows, lambda _row, _at, day: day < today):
        yield Finding("past day", row, PAST(column=column, day=f"{day:%Y-%m-%d}"), column)
