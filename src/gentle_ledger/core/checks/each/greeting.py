"""Somebody is greeted by what is not a first name."""

import re
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import first_and_more
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.wording.bound import BoundWording
from gentle_ledger.core.wording.parse import Field

_COMPANY = re.compile(
    r"\b(?:ltd|limited|inc|incorporated|corp|corporation|llc|llp|plc|gmbh|ag|pty|sarl|lt[ée]e|bv|nv|oy|a/s)\b\.?"
    r"|\b(?:co\.|company\b|& ?sons\b|and sons\b|& ?co\b)",
    re.IGNORECASE,
)
_TWO = re.compile(r"\s(?:and|et|und|y|&|\+)\s|\w\s?[/&+]\s?\w", re.IGNORECASE)
_TITLE = re.compile(
    r"(?:mr|mrs|ms|miss|mx|dr|prof|sir|madam|capt|captain|rev|mme|mlle|monsieur|madame|herr|frau)\.?", re.IGNORECASE
)
_NOBODY = re.compile(
    r"(?:test|tester|testing|dummy|sample|example|unknown|none|nobody|n/?a|tbd|tbc|asdf|x{2,}|\?+|-+|name|first name|"
    r"customer|client|sir or madam)\b.*|[?\-.]+",
    re.IGNORECASE,
)
_FIGURES = re.compile(r"[\d@]")
_HELLO = re.compile(
    r"(?:^|[\n.!?,;] ?)(?:hello|hi|hey|dear|good (?:day|morning|afternoon|evening)|greetings|bonjour|bonsoir|salut|"
    r"cher|ch[èe]re|hallo|guten (?:tag|morgen|abend)|liebe[r]?|hola|buenos d[íi]as|ciao|ol[áa])?[ ,]*$",
    re.IGNORECASE,
)
"""Words of greeting at the beginning of a line or a sentence, or none (common practice)."""


_NEAR = 60
"""Characters in front of a name in which a greeting is looked for."""


def _says(name: str, why: str) -> str:
    return f"the greeting says '{clipped(name)}': {why}"


NO_FIRST_NAME = reason_kind("greeting odd", _says)


def why_no_first_name(name: str) -> str:
    """What is odd about a name in a greeting; "" for one that may be somebody's first name."""
    letters = [character for character in name if character.isalpha()]
    if _NOBODY.fullmatch(name.strip()):
        return "that is nobody's name"
    if _COMPANY.search(name):
        return "that is a company"
    if _TWO.search(name):
        return "these are two names"
    if _TITLE.fullmatch(name.strip()):
        return "that is a title without a name"
    if _FIGURES.search(name):
        return "a name has no such characters"
    if len(letters) > 2 and all(letter.isupper() for letter in letters):
        return "all in capitals"
    return ""


@check(
    key="greeting",
    level=Level.LOOK,
    place=68,
    label="greeting",
    doc="A text greets somebody by what is not a first name: all capitals, a company, two names, a title, a test.",
    do="Write the first name as the person would, or let the text greet nobody.",
    sentence=first_and_more,
)
def greeting(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer = view.composer
    for wording, mine in view.by_wording(rows):
        for position in _greeted(view, wording):
            column = composer.column(position)

            def odd(shown: Sequence[object] = column.shown.whole()) -> dict[int, str]:
                names = ((place, text) for place, text in enumerate(shown) if isinstance(text, str) and text)
                return {place: why for place, name in names if (why := why_no_first_name(name))}

            found = composer.evaluation.kept(("greetings", column.shown_key), [column], odd)
            for row in mine if found else ():
                place = composer.groups.place(row)
                if place in found:
                    reason = NO_FIRST_NAME(name=str(column.shown[place]), why=found[place])
                    yield Finding("greeting", row, reason, column.name)


def _greeted(view: RoundView, wording: BoundWording) -> list[int]:
    """The columns of names, or of what is made of names alone, by which a wording greets; each once."""
    composer, columns = view.composer, view.composer.columns
    names = {at for at, role in enumerate(composer.roles) if role is Role.NAME}
    before, found = "", dict[int, None]()
    for piece in wording.wording.pieces:
        if isinstance(piece, str):
            before += piece
            continue
        position = columns.position(piece.name) if isinstance(piece, Field) else None
        if position is not None and _HELLO.search(before[-_NEAR:]):
            reads = composer.column(position).reads
            computed = position >= columns.first_computed and composer.roles[position] is Role.TEXT
            if position in names or (computed and reads and reads <= names):
                found[position] = None
        before += "x"
    return list(found)
