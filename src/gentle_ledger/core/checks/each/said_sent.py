"""A column reads as if the row had been sent already."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

SAID_SENT = reason_kind("seems sent", lambda column, says: f"{column} says '{clipped(says)}': was it sent already?")


@check(
    key="said sent",
    level=Level.MAY_BE_RELEASED,
    place=130,
    doc="A column of the sheet reads as if it said which rows were sent, and nobody has said whether it does.",
    do="Say at the top whether the column tells which rows were sent.",
    mends=(),
    sentence=lambda findings: (
        f"{count(len(findings), 'row')} may have been sent: say what {findings[0].about('column')} is"
    ),
)
def said_sent(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.said_sent else ():
        if row in view.said_sent:
            column, says = view.said_sent[row]
            yield Finding("said sent", row, SAID_SENT(column=column, says=says), column)
