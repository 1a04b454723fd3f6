"""An amount of zero or less."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

NOTHING = reason_kind("nothing due", "{column} is {amount}")


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{amount} in {count(n, 'row')}" for amount, n in counted(findings, "amount")]
    return f"{findings[0].column} is {listed(shown)}"


@check(
    key="nothing due",
    level=Level.LOOK,
    place=80,
    label="no debt",
    doc="An amount in the text is zero or negative.",
    sentence=_sentence,
)
def nothing_due(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, amounts in view.amounts():
        for row in rows:
            value = amounts[row]
            if value is not None and value <= 0:
                amount = "nothing" if value == 0 else "less than nothing"
                yield Finding("nothing due", row, NOTHING(column=column, amount=amount), column)
