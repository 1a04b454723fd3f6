"""A link leads to another host than the rest."""

from collections import Counter
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.columns.links import link_host

OTHER = reason_kind("link to another host", "{column} leads to {host}, most lead to {usual}")


def _sentence(findings: Sequence[Finding]) -> str:
    hosts = list(dict.fromkeys(finding.about("host") for finding in findings))
    return f"{count(len(findings), 'link leads', 'links lead')} to another host than the rest: {listed(hosts, 3)}"


@check(
    key="other host",
    level=Level.LOOK,
    place=100,
    label="with a link elsewhere",
    doc="A link leads to another host than most links of the round.",
    do="See whether the link leads where the others do, and mend it.",
    sentence=_sentence,
)
def other_host(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, links, several in view.links():
        hosts = {row: host for row in rows if (link := links[row]) and (host := link_host(link))}
        usual = Counter(hosts.values()).most_common(1)
        # Where all are several, they are held against one another.
        most = usual[0][0] if usual else next((link_host(each) for links in several.values() for each in links), None)
        for row in rows if several else ():
            for each in several.get(row, ()):
                if (host := link_host(each)) and host != most:
                    hosts[row] = host
        for row, host in hosts.items():
            if host != most:
                yield Finding("other host", row, OTHER(column=column, host=host, usual=most or ""), column)
