"""A blank that nearly no other row has, and that a formula went on without."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import first_and_more
from gentle_ledger.core.checks.view import RoundView

FEW = 0.1
"""Up to this share of rows a blank figure may be a slip; a figure of ours."""


def _says(column: str, reads: str, figures: bool, row: int | None) -> str:
    where = f"in row {row}, " if row else ""
    return f"{where}{reads} is blank and {'counts as 0' if figures else 'adds nothing'} in {column}"


COUNTED = reason_kind("blank counted", _says)


@check(
    key="counted blank",
    level=Level.LOOK,
    place=60,
    label="with a blank cell",
    doc="What nearly every row has is blank here, and the formula, link or condition went on without it.",
    do="Fill the cell in, or see whether the amount is right without it.",
    sentence=first_and_more,
)
def counted_blank(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    open_rows = set(rows)
    for column, reads, figures, missing in _blanks(view):
        # A column that is blank in many rows is blank on purpose: nothing paid, no arrears.
        for row in missing if len(missing) <= FEW * len(view.texts) else ():
            bears = view.lead(row)
            # A column that came to an error has said so.
            if bears in open_rows and all(gap.column != column for gap in view.gaps[bears]):
                other = None if bears == row else number_of_row(row)
                reason = COUNTED(column=column, reads=reads, figures=figures, row=other)
                yield Finding("counted blank", bears, reason, reads)


def _blanks(view: RoundView) -> Iterator[tuple[str, str, bool, list[int]]]:
    """What the wordings compute or ask, each with a column it reads and the rows where that one is blank.

    Between the two names and the rows it says whether that column holds figures.
    """
    composer = view.composer
    columns, told = composer.columns, set[int]()
    for position in composer.used:
        column = composer.column(position)
        for read in sorted(column.reads - told) if position >= columns.first_computed else ():
            told.add(read)
            values = composer.column(read).values.whole()
            missing = [row for row in range(len(view.texts)) if values[row] is None]
            yield column.name, columns.names[read], columns.roles[read].counts, missing
    for condition in composer.conditions:
        # A figure that is compared while it is blank sends its row to another wording without a word.
        figures = {read for read in condition.reads - told if columns.roles[read].counts}
        for read in sorted(figures if not condition.asks_for_blanks else ()):
            told.add(read)
            values = composer.column(read).values.whole()
            missing = [row for row in range(len(view.texts)) if values[row] is None]
            yield f'the condition of "{condition.name}"', columns.names[read], True, missing
