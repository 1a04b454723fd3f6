"""The text needs more parts than can be joined."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.sms.parts import MOST_PARTS

TOO_LONG = reason_kind("text too long", "the text takes {parts:,} parts; at most {most} can be joined")


@check(
    key="too long",
    level=Level.HOLDS,
    fixed=True,
    place=110,
    doc="The text needs more parts than can be joined again (3GPP TS 23.040 counts them in one octet).",
    do="Shorten the wording or the cell until the line takes it.",
    sentence=lambda findings: f"{count(len(findings), 'text is', 'texts are')} longer than {MOST_PARTS} parts",
)
def too_long(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if (parts := view.measures[row].parts) > MOST_PARTS:
            yield Finding("too long", row, TOO_LONG(parts=parts, most=MOST_PARTS))
