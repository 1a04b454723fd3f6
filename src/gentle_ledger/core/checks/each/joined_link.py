"""A link of a combined row that is made for one thing, and has a list in its place."""

import re
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, Mend, check
from gentle_ledger.core.checks.view import RoundView

JOINED = reason_kind(
    "link of a list", "{link} is made for one {column}, and the combined rows have {items}: it may lead nowhere"
)
_IN_A_LINK = re.compile(r"https?://\S*\Z", re.IGNORECASE)


@check(
    key="joined link",
    level=Level.HOLDS,
    place=82,
    doc="Rows are combined, and their link has a list where one thing belongs, as in .../B23%20and%20C01. An address "
    "that takes lists apart, such as {?Berth*} or {/Berth*} (RFC 6570, 2.4.2), is made for that.",
    do='Have one link a row: what becomes of the link\'s column is then "listed". Or write its address for lists.',
    mends=(Mend.ONE_LINK, Mend.LEAVE_OUT),
    sentence=lambda findings: (
        f"{count(len(findings), 'link has', 'links have')} a list in it: {findings[0].reason.sentence}"
    ),
)
def joined_link(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer = view.composer
    if not composer.groups.members:
        return
    for row in rows:
        together = composer.groups.together(row)
        if together and composer.groups.lead(row) == row:
            yield from _joined(view, row, together)


def _joined(view: RoundView, row: int, together: Sequence[int]) -> Iterator[Finding]:
    """The first of its links in which a list stands: by the link's column, or by a field at the end of an address."""
    composer, so_far = view.composer, ""
    for run in composer.runs(row):
        position = composer.columns.position(run.column) if run.column else None
        if position is not None:
            lists = composer.column(position).lists
            # The links of all rows one after another are whole; a list behind the start of an address is not.
            within = lists if _IN_A_LINK.search(so_far) else lists - {position} if "://" in run.text else ()
            for each in sorted(within):
                items = composer.evaluation.items(each, together)
                if len(items) > 1:
                    link, column = run.column or "", composer.columns.names[each]
                    yield Finding("joined link", row, JOINED(link=link, column=column, items=listed(items, 3)), link)
                    return
        so_far = (so_far + run.text)[-500:]
