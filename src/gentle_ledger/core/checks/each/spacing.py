"""Spaces that nobody would type, where something is missing or stands twice."""

import re
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.checks.model import Finding, Level, Mend, check
from gentle_ledger.core.checks.phrases import first_and_more
from gentle_ledger.core.checks.suspects import found_in_texts
from gentle_ledger.core.checks.view import RoundView

_ODD = re.compile(r"\S(?P<doubled>[ \u00a0]{2,})\S|\S?(?P<before>[ \u00a0][,.;](?=[\s]|$))|(?P<twice>[,;] ?[,;.])")
_IN_VALUE = re.compile(r"^$|^[\s,.;]|[\s,;]$|[ \u00a0]{2,}|[ \u00a0][,.;]|[,;] ?[,;.]")


def _says(before: str, what: str) -> str:
    if what == "doubled":
        return f"spaces are doubled behind '{before}'"
    if what == "before":
        return f"a space stands before a mark, as in '{before}'"
    return f"two marks stand together, as in '{before}'"


ODD = reason_kind("spaces odd", _says)


@check(
    key="spacing",
    level=Level.LOOK,
    place=14,
    label="with odd spaces",
    doc="Doubled spaces, a space before a comma or a full stop, or two commas: a word may be missing there.",
    do="Close the spaces up at one press, or see which word is missing there.",
    mends=(Mend.CLOSE_UP, Mend.LEAVE_OUT),
    sentence=first_and_more,
)
def spacing(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row, match in found_in_texts(view, rows, _ODD, _IN_VALUE):
        what, text = match.lastgroup or "", view.texts[row]
        end = match.start(what) if what == "doubled" else match.end(what)
        start = max(text.rfind(" ", 0, max(0, match.start(what))) + 1, end - 20)
        reason = ODD(before=text[start:end].strip(), what=what)
        yield Finding("spacing", row, reason, view.composer.column_at(row, match.start(what)))
