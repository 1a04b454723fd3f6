"""Something is due on a weekend."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.due_days import days_of, due_columns, weekend_of
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.wording.bound import BoundWording

WEEKEND = reason_kind("day on weekend", "{column} is {day}, a {weekday}")
_WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def _sentence(findings: Sequence[Finding]) -> str:
    return f"{count(len(findings), 'text has', 'texts have')} something due on a weekend: {findings[0].reason.sentence}"


@check(
    key="weekend",
    level=Level.LOOK,
    place=74,
    label="day",
    doc="A day on which something is due falls on a weekend, when no one may be there to take it.",
    sentence=_sentence,
)
def weekend(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    off, told = weekend_of(view.composer.recipe.locale), set[int]()
    due: dict[int, frozenset[int]] = {}

    def is_due(wording: BoundWording | None, position: int) -> bool:
        if wording is None:
            return False
        if id(wording) not in due:
            due[id(wording)] = due_columns(view, wording)
        return position in due[id(wording)]

    for row, position, day in days_of(view, rows):
        if day.weekday() in off and row not in told and is_due(view.wordings[row], position):
            told.add(row)
            column, weekday = view.composer.columns.names[position], _WEEKDAYS[day.weekday()]
            yield Finding("weekend", row, WEEKEND(column=column, day=f"{day:%Y-%m-%d}", weekday=weekday), column)
