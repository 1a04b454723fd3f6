"""A link that nobody could open."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.columns.links import link_host

NO_LINK = reason_kind(
    "no link",
    lambda column, link: f"{column} is '{clipped(link)}', not an address that begins with https:// and a host",
)


@check(
    key="no link",
    level=Level.HOLDS,
    place=80,
    doc="A link that the wording uses is not an absolute http or https address: nobody could open it.",
    do="Mend the link in its cell, or the address of the link column.",
    sentence=lambda findings: f"{count(len(findings), 'link')} cannot be opened: {findings[0].reason.sentence}",
)
def no_link(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, links, several in view.links():
        for row in rows:
            link = links[row]
            if link is not None and row in several:
                link = next((each for each in several[row] if link_host(each) is None), None)
            if link is not None and link_host(link) is None:
                yield Finding("no link", row, NO_LINK(column=column, link=link), column)
