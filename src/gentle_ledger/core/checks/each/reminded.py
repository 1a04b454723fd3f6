"""The same person was reminded about the same reference as often as is any use."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.checks.each.same_matter import codes_of
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

MOST_REMINDERS = 2
"""After so many texts about one matter another one helps nobody (common practice, no source)."""

REMINDED = reason_kind(
    "reminded often", lambda code, times: f"{times} texts about {clipped(code).upper()} went to this number already"
)


@check(
    key="reminded",
    level=Level.LOOK,
    place=51,
    label="reminded often",
    doc=f"{MOST_REMINDERS} or more texts about the same reference went to the same number within a year.",
    do="Call, write a letter, or leave the row out: a third text helps seldom.",
    sentence=lambda findings: (
        f"{count(len(findings), 'person was', 'people were')} reminded {MOST_REMINDERS} times or more about the same "
        "reference: a call or a letter may do more than another text"
    ),
)
def reminded(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    known = view.history.reminded
    for row in rows if known else ():
        number = view.numbers[row].e164
        for code in codes_of(view, row):
            if (times := known.get((number, code), 0)) >= MOST_REMINDERS:
                yield Finding("reminded", row, REMINDED(code=code, times=times))
                break
