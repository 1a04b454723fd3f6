"""Other words stand in the text for a blank cell."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import clipped, count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

USED = reason_kind("fallback used", lambda column, words: f"{column} is blank: the text says '{clipped(words)}'")


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{column} is blank in {count(n, 'row')}" for column, n in counted(findings, "column")]
    return f"{listed(shown, 3)}, and other words stand there instead"


@check(
    key="fallback",
    level=Level.LOOK,
    place=65,
    label="with a blank cell",
    doc="A cell that the row's wording uses is blank, and the words that were set for that stand in the text.",
    do="Fill the cell in, or leave it where the words that stand for it read well.",
    sentence=_sentence,
)
def fallback(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    told = set[int]()
    composer = view.composer
    for position in composer.used:
        words, column = composer.columns.fallback(position), composer.column(position)
        if not words:
            continue

        def blank(shown: Sequence[object] = column.shown.whole()) -> frozenset[int]:
            return frozenset(place for place, text in enumerate(shown) if not text and (text is None or text == ""))

        places = composer.evaluation.kept(("blank places", column.shown_key), [column], blank)
        for row in rows if places else ():
            wording = view.wordings[row]
            filled = composer.groups.place(row) in places and wording is not None and position in wording.used
            if filled and row not in told:
                told.add(row)
                yield Finding("fallback", row, USED(column=column.name, words=words), column.name)
