"""A rule that leaves rows out cannot be decided."""

from collections import Counter
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

UNDECIDED = reason_kind("rule undecided", 'the rule "{rule}" cannot be decided: {why}')


def _sentence(findings: Sequence[Finding]) -> str:
    most = Counter((finding.about("rule"), finding.about("why")) for finding in findings).most_common(1)
    rule, why = most[0][0]
    return f'The rule "{rule}" cannot be decided: {why} ({count(len(findings), "row")})'


@check(
    key="rule",
    level=Level.HOLDS,
    place=90,
    doc="A rule that leaves rows out cannot be decided, because its formula comes to an error.",
    do="Mend the cell that the rule cannot read, or the rule.",
    sentence=_sentence,
)
def undecided_rule(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.undecided_rules else ():
        if row in view.undecided_rules:
            rule, why = view.undecided_rules[row]
            yield Finding("rule", row, UNDECIDED(rule=rule, why=why))
