"""A formula asks whether a text equals a number."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.formulas.values import number_in
from gentle_ledger.core.wording.uses import asked_to_equal_numbers

COMPARED = reason_kind(
    "text compared with number",
    "{asks} compares {column} with a number, and it is a text here, which never equals one",
)


@check(
    key="compared",
    level=Level.LOOK,
    place=20,
    label="compared as text",
    doc="A formula asks whether a text equals a number. It never does, even where it looks like one.",
    do="Look at the formula: compare the number in its column, or make a number of the text with VALUE.",
    mends=(),
    sentence=lambda findings: (
        f"{findings[0].reason.sentence}, in {count(len(findings), 'row')}: make the column one of numbers, or put the "
        "number in quotes"
    ),
)
def compared(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer, open_rows = view.composer, set(rows)
    for asks, position in asked_to_equal_numbers(composer.recipe, composer.columns):
        column, values = composer.columns.names[position], composer.column(position).values.whole()
        for row in range(composer.groups.rows):
            value = values[row]
            if isinstance(value, str) and number_in(value) is not None and (bears := view.lead(row)) in open_rows:
                yield Finding("compared", bears, COMPARED(asks=asks, column=column), column)
