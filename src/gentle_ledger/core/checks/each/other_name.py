"""The number was texted under another name before: a column of numbers, or of names, may have slipped."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.persons import may_be_one_person
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

OTHER_NAME = reason_kind("other name", lambda name, before: f"the number was texted as {clipped(before)} before")


def _sentence(findings: Sequence[Finding]) -> str:
    first = findings[0]
    found = count(len(findings), "number was", "numbers were")
    named = f"{clipped(first.about('name'))} was {clipped(first.about('before'))}"
    return f"{found} texted under another name before ({named}): a column may have slipped"


@check(
    key="other name",
    level=Level.LOOK,
    place=53,
    label="numbers had another name",
    label_of_one="number had another name",
    doc="The number was texted under another name within a year: it may stand in the wrong row.",
    do="See whose number it is, and whether the columns of numbers and of names still stand beside each other.",
    sentence=_sentence,
)
def other_name(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    known = view.history.names
    for row in rows if known else ():
        before = known.get(view.numbers[row].e164)
        name = view.composer.label(row) if before else ""
        if before and name and not any(may_be_one_person(name, each) for each in before):
            yield Finding("other name", row, OTHER_NAME(name=name, before=sorted(before)[0]), view.mobile_column)
