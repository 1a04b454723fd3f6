"""The number takes no texts."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.phones import NO_COLUMN
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

PROBLEM = reason_kind("number", "{column}: {problem}")


def _sentence(findings: Sequence[Finding]) -> str:
    if findings[0].reason.code == NO_COLUMN.code:
        return "No column is the mobile number: press the small word above the column that holds them"
    problems = counted(findings, "problem")
    shown = [f"{problem} ({n:,})" if n > 1 else problem for problem, n in problems]
    what = count(len(findings), "number cannot take texts", "numbers cannot take texts")
    more = [f"and {len(shown) - 3:,} more"] if len(shown) > 3 else []
    return f"{what}: {'; '.join(shown[:3] + more)}"


@check(
    key="number",
    level=Level.HOLDS,
    fixed=True,
    place=50,
    doc="The number is missing, has the wrong length, or is of a kind that takes no texts.",
    do="Write a mobile number that takes texts, or leave the row out.",
    sentence=_sentence,
)
def number(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    column = view.mobile_column
    for row in rows:
        if column is None:
            yield Finding("number", row, NO_COLUMN())
        elif problem := view.numbers[row].problem:
            yield Finding("number", row, PROBLEM(column=column, problem=problem.sentence, kind=problem.code), column)
