"""Something is due on a weekend."""

from collections.abc import Iterator, Sequence
from datetime import date

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.due_days import due_columns, first_days, weekend_of
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

WEEKEND = reason_kind("day on weekend", "{column} is {day}, a {weekday}")
_WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def _sentence(findings: Sequence[Finding]) -> str:
    return f"{count(len(findings), 'text has', 'texts have')} something due on a weekend: {findings[0].reason.sentence}"


@check(
    key="weekend",
    level=Level.LOOK,
    place=74,
    label="with a day on a weekend",
    doc="A day on which something is due falls on a weekend, when no one may be there to take it.",
    do="See whether somebody is there on that day, and name a weekday if not.",
    sentence=_sentence,
)
def weekend(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    off = weekend_of(view.composer.recipe.locale)
    due = {id(wording): due_columns(view, wording) for wording in view.composer.wordings}

    def odd(row: int, position: int, day: date) -> bool:
        return day.weekday() in off and position in due.get(id(view.wordings[row]), ())

    for row, column, day in first_days(view, rows, odd):
        reason = WEEKEND(column=column, day=f"{day:%Y-%m-%d}", weekday=_WEEKDAYS[day.weekday()])
        yield Finding("weekend", row, reason, column)
