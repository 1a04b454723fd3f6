"""The text does not say who writes."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.suspects import words_of
from gentle_ledger.core.checks.view import RoundView

NAMELESS = reason_kind("sender not named", "the text does not say that it is from {sender}")


@check(
    key="sender",
    level=Level.LOOK,
    place=20,
    label="without the sender",
    doc="The name of who writes, as it is set for the round, stands nowhere in the text.",
    do="Name who writes in the wording, or set another name under what is checked.",
    mends=(),
    sentence=lambda findings: (
        f"{count(len(findings), 'text says', 'texts say')} nowhere that they are from {findings[0].about('sender')}"
    ),
)
def sender(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    name = " ".join(view.composer.recipe.sender.split())
    wanted = name.casefold()
    for wording, mine in view.by_wording(rows) if wanted else ():
        if wanted in " ".join(words_of(wording).split()).casefold():
            continue
        for row in mine:
            if wanted not in " ".join(view.texts[row].split()).casefold():
                yield Finding("sender", row, NAMELESS(sender=name))
