"""Something stands in the text that was meant to be something else."""

import re
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import clipped, count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.suspects import found_in_texts
from gentle_ledger.core.checks.view import RoundView

_LEFT = re.compile(
    r"[{}\ufffd]"
    r"|\b(?:[Nn]ull|NULL|NaN|undefined|#?N/A|n/a)(?![\w/])"
    r"|#(?:REF|VALUE|NAME|NUM|DIV/0|NULL|SPILL|CALC)[!?]"
    r"|(?<![\d.,])0[.,]00(?!\d)"
    r"|&(?:[A-Za-z]{2,8}|#\d{1,6});"
    r"|\\[nrt](?![a-z])"
    r"|%(?:[sd]\b|[A-Za-z_]{2,30}%)"
    r"|<[/A-Za-z][^<>\n]{0,40}>|«[A-Za-z_]{2,30}»|\[[A-Z][A-Za-z_ ]{1,30}\]"
    r"|(?:^|\s)=[A-Z]{1,12}\("
)
"""What no finished text should say: brackets, what programs write for nothing, a formula, a sign that nobody expanded.

0.00 is an amount of nothing. Error values are those of OpenFormula (ODF 1.3 part 4, 5.12) and of office programs.
"""

LEFT = reason_kind("left in the text", lambda what: f"the text says '{clipped(what.strip())}'")


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [f"'{clipped(what.strip())}' in {count(n, 'row')}" for what, n in counted(findings, "what")]
    return f"The text says {listed(shown, 3)}: something was not filled in"


@check(
    key="leftover",
    level=Level.LOOK,
    place=12,
    label="not filled in",
    doc="Brackets, null, N/A, #REF!, 0.00, or a sign that was to become another one was left in the text.",
    do="Look at where it comes from: the wording, the formula, or the cell.",
    sentence=_sentence,
)
def leftover(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row, match in found_in_texts(view, rows, _LEFT, _LEFT):
        column = view.composer.column_at(row, match.start() + len(match[0]) - len(match[0].lstrip()))
        yield Finding("leftover", row, LEFT(what=match[0]), column)
