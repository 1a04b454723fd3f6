"""The text asks for money, and the amount is zero, less, or blank."""

from collections.abc import Iterator, Sequence
from decimal import Decimal

from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.columns.evaluation import Column

NOTHING = reason_kind("nothing due", "{column} is {amount}")


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{amount} in {count(n, 'row')}" for amount, n in counted(findings, "amount")]
    return f"{findings[0].column} is {listed(shown)}"


@check(
    key="nothing due",
    level=Level.MAY_BE_RELEASED,
    place=115,
    doc="An amount that the row's wording asks for is zero or negative, or its formula comes to no text at all.",
    do="Leave the row out, or mend the amount.",
    sentence=_sentence,
)
def nothing_due(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    open_rows = set(rows)
    for position in view.used(Role.MONEY):
        column = view.composer.column(position)

        # What is set for a blank stands in for no text as well, and another check says so.
        filled = bool(view.composer.columns.fallback(position))

        def empty(column: Column = column, filled: bool = filled) -> dict[int, str]:
            values = enumerate(column.values.whole())
            return {place: said for place, value in values if (said := _said(value, filled))}

        found = view.composer.evaluation.kept(("nothing due", column.key, filled), [column], empty)
        for row in open_rows if found else ():
            wording, said = view.wordings[row], found.get(view.composer.groups.place(row))
            if said and wording is not None and position in wording.used:
                yield Finding("nothing due", row, NOTHING(column=column.name, amount=said), column.name)


def _said(value: Value, filled: bool) -> str:
    if isinstance(value, Decimal):
        return "" if value > 0 else "nothing" if value == 0 else "less than nothing"
    return "blank" if value == "" and not filled else ""
