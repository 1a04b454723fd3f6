"""The text needs more parts than the line takes."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

TOO_LONG = reason_kind("text too long", "the text takes {parts:,} parts; the line takes at most {most}")


@check(
    key="too long",
    level=Level.HOLDS,
    fixed=True,
    place=110,
    doc="The text needs more parts than the line takes, or than can be joined again (255 by 3GPP TS 23.040).",
    do="Shorten the wording or the cell until the line takes it.",
    sentence=lambda found: (
        f"{count(len(found), 'text is', 'texts are')} longer than {found[0].about('most')} parts, which the line takes"
    ),
)
def too_long(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if (parts := view.measures[row].parts) > view.most_parts:
            yield Finding("too long", row, TOO_LONG(parts=parts, most=view.most_parts))
