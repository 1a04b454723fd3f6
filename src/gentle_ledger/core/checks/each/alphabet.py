"""A special character: one that the 7-bit alphabet lacks, so that the whole text takes more room."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, Mend, check
from gentle_ledger.core.checks.phrases import character_name, counted
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.sms.alphabet import Alphabet, first_beyond
from gentle_ledger.core.sms.parts import plain_parts


def _says(what: str, parts: int, plain: int) -> str:
    cost = f"without it {plain}" if plain < parts else "as many as without it"
    return f"{what} is a special character: {count(parts, 'part')}, {cost}"


BEYOND = reason_kind("special character", _says)


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [what for what, _ in counted(findings, "what")]
    parts, plain = (sum(int(finding.about(name)) for finding in findings) for name in ("parts", "plain"))
    makes = "is a special character" if len(shown) == 1 else "are special characters"
    texts = count(len(findings), "text takes", "texts take")
    cost = f"without {plain:,}" if plain < parts else "no more than without"
    return f"{listed(shown, 2)} {makes}: {texts} {count(parts, 'part')}, {cost}"


@check(
    key="alphabet",
    level=Level.LOOK,
    place=120,
    label="with special characters",
    doc="With one special character a whole text has room for 70 characters a part, not 160 (UCS-2 instead of GSM-7).",
    do="Write the plain character in its place, or leave it: it costs parts and changes nothing else.",
    mends=(Mend.PLAIN,),
    sentence=_sentence,
)
def alphabet(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if view.measures[row].alphabet is Alphabet.UCS_2:
            text = view.texts[row]
            at = first_beyond(text) or 0
            column = view.composer.column_at(row, at)
            what = f"{character_name(text[at])} {f'in {column}' if column else 'in the wording'}"
            yield Finding(
                "alphabet", row, BEYOND(what=what, parts=view.measures[row].parts, plain=plain_parts(text)), column
            )
