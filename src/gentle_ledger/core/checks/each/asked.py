"""Somebody asked for no more texts to this number."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

ASKED = reason_kind("asked for no more texts", "asked on {on} for no more texts{how}")


@check(
    key="no more texts",
    level=Level.HOLDS,
    fixed=True,
    place=55,
    doc="The number is on the list of those who asked for no more texts. It is never released.",
    do="Leave the row out. Where the number is on the list by mistake, take it off the list.",
    sentence=lambda findings: f"{count(len(findings), 'person', 'people')} asked for no more texts",
)
def asked(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.history.asked else ():
        if known := view.history.asked.get(view.numbers[row].e164):
            how = f" ({known.how})" if known.how else ""
            yield Finding("no more texts", row, ASKED(on=f"{known.on:%Y-%m-%d}", how=how), view.mobile_column)
