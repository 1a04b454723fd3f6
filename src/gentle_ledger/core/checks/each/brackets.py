"""The text has a column's name in it, with its brackets."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

BRACKETS = reason_kind("name in brackets", "the text says {{{column}}}, with its brackets")


@check(
    key="brackets",
    level=Level.LOOK,
    place=10,
    label="with brackets",
    doc="Two brackets write one: a column's name between two of them stands in the text as it is, not its value.",
    do="Write one bracket at each side of the column's name where its value is to stand.",
    mends=(),
    sentence=lambda findings: (
        f"The texts say {{{findings[0].about('column')}}}: for its value, write it with one bracket on each side"
    ),
)
def brackets(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    known = view.composer.columns.position
    bracketed = {
        id(each): name for each in view.composer.wordings for name in each.wording.bracketed if known(name) is not None
    }
    for row in rows if bracketed else ():
        if name := bracketed.get(id(view.wordings[row])):
            yield Finding("brackets", row, BRACKETS(column=name))
