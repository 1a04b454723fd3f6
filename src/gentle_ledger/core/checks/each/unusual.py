"""An amount far above the middle one."""

from collections.abc import Iterator, Sequence
from decimal import Decimal

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import first_and_more
from gentle_ledger.core.checks.view import RoundView

UNUSUAL_TIMES = 10
"""How many times the middle amount is unusual; a figure of ours."""
ENOUGH = 5
"""From how many amounts on there is a middle worth comparing with; a figure of ours."""

UNUSUAL = reason_kind("amount unusual", "{column} is {amount}, {times} times the usual amount")


def _middle(amounts: list[Decimal]) -> Decimal:
    """The middle one of the amounts, the smaller of the two middle ones when they are even in number.

    They are put in order by whole mills (a tenth of a cent): whole numbers sort in a fraction of the time.
    """
    return sorted(amounts, key=lambda amount: int(amount.scaleb(3)))[(len(amounts) - 1) // 2]


@check(
    key="unusual",
    level=Level.LOOK,
    place=70,
    label="unusual",
    doc=f"An amount is {UNUSUAL_TIMES} times the middle one or more: a slipped decimal mark, perhaps.",
    sentence=first_and_more,
)
def unusual(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, amounts in view.amounts():
        values = [value for row in rows if (value := amounts[row]) is not None and value > 0]
        if len(values) < ENOUGH:
            continue
        middle = _middle(values)
        for row in rows:
            value = amounts[row]
            if value is not None and value >= UNUSUAL_TIMES * middle:
                reason = UNUSUAL(column=column, amount=f"{value:,f}", times=f"{value / middle:.0f}")
                yield Finding("unusual", row, reason, column)
