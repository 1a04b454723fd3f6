"""Rows that would be combined into one text, and whose names are of different people."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.persons import may_be_one_person
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.columns.evaluated import NamesOfRows

TWO_PEOPLE = reason_kind(
    "people in question",
    lambda column, other, row: (
        f"{clipped(other) or 'somebody'} in row {row} has the same {column}: do they belong together, or is one wrong?"
    ),
)


@check(
    key="two people",
    level=Level.MAY_BE_RELEASED,
    place=57,
    label="two people",
    doc="Rows that are to be combined have names of different people: one text would tell the one of the other's berth "
    "and arrears. They stay apart, and are held, until somebody says that they belong together (one household, one "
    "firm). Case, accents, order and initials make no other name.",
    do="Say at the top that they belong together, or mend what is wrong. Who is released gets a text of their own.",
    sentence=lambda findings: (
        f"{count(len(findings), 'row')} would be combined with {'one' if len(findings) == 1 else 'rows'} of another "
        f"name: {findings[0].reason.sentence}"
    ),
)
def two_people(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer = view.composer
    if not composer.groups.apart:
        return
    wanted = frozenset(rows)
    by = composer.recipe.combine.by if composer.recipe.combine else ""
    names = NamesOfRows(composer.evaluation)
    for together in composer.groups.apart:
        named = {row: names.name(row) for row in together}
        for row in together:
            if row in wanted:
                others = [each for each in together if each != row]
                other = next((each for each in others if not may_be_one_person(named[each], named[row])), others[0])
                reason = TWO_PEOPLE(column=by, other=named[other], row=number_of_row(other))
                yield Finding("two people", row, reason, by)
