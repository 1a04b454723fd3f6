"""A character turns the text to the larger alphabet."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import character_name, counted
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.sms.alphabet import Alphabet, first_beyond

BEYOND = reason_kind("larger alphabet", "{what} needs the larger alphabet")


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [what for what, _ in counted(findings, "what")]
    turn = "turns" if len(shown) == 1 else "turn"
    return f"{listed(shown, 2)} {turn} {count(len(findings), 'text')} to the larger alphabet, 70 a part"


@check(
    key="alphabet",
    level=Level.LOOK,
    place=120,
    label="letters",
    doc="A character that the 7-bit alphabet lacks makes the whole text take more room: 70 characters a part, not 160.",
    sentence=_sentence,
)
def alphabet(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if view.measures[row].alphabet is Alphabet.UCS_2:
            text = view.texts[row]
            at = first_beyond(text) or 0
            column = view.composer.column_at(row, at)
            what = f"{character_name(text[at])} {f'in {column}' if column else 'in the wording'}"
            yield Finding("alphabet", row, BEYOND(what=what), column)
