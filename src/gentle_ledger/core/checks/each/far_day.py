"""A day in the text is far ahead."""

from collections.abc import Iterator, Sequence
from datetime import date

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.due_days import days_of
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
    label="day",
    doc=f"A day in the text is more than {FAR_DAYS} days after the round's own date: a wrong year, perhaps.",
    sentence=_sentence,
)
def far_day(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    today, told = view.today, set[int]()
    for row, position, day in days_of(view, rows) if today else ():
        ahead = (date(day.year, day.month, day.day) - today).days if today else 0
        if row not in told and ahead > FAR_DAYS:
            told.add(row)
            column = view.composer.columns.names[position]
            yield Finding("far day", row, FAR_AHEAD(column=column, day=f"{day:%Y-%m-%d}", days=ahead), column)
