"""A day in the text is far ahead."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.due_days import first_days
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

FAR_DAYS = 366
"""How many days ahead are far for a text message; a figure of ours."""

FAR_AHEAD = reason_kind("day far ahead", "{column} is {day}, {days:,} days ahead")


def _sentence(findings: Sequence[Finding]) -> str:
    return f"{count(len(findings), 'text speaks', 'texts speak')} of a day far ahead: {findings[0].reason.sentence}"


@check(
    key="far day",
    level=Level.LOOK,
    place=73,
    label="with a day far ahead",
    doc=f"A day in the text is more than {FAR_DAYS} days after the round's own date: a wrong year, perhaps.",
    do="See whether the year is right, and mend the day in its cell.",
    sentence=_sentence,
)
def far_day(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    today = view.today
    if today is None:
        return
    for row, column, day in first_days(view, rows, lambda _row, _at, day: (day - today).days > FAR_DAYS):
        ahead = (day - today).days
        yield Finding("far day", row, FAR_AHEAD(column=column, day=f"{day:%Y-%m-%d}", days=ahead), column)
