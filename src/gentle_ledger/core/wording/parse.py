"""Taking a wording apart into plain text and fields."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.fields import FIELD
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.recipe.part import MOST_CHARACTERS

_FIELD = re.compile(rf"\{{\{{|\}}\}}|({FIELD})")
_IN_TWO = re.compile(r"\{\{([^{}\n]+)\}\}")


@dataclass(frozen=True, slots=True)
class Field:
    """`{Column name}` at `start` up to `end` (code points of the wording)."""

    name: str
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class WordingProblem:
    """What is wrong at `start` up to `end` (code points of the wording), and what to do about it."""

    start: int
    end: int
    message: str
    remedy: str


@dataclass(frozen=True, slots=True)
class Wording:
    """A wording taken apart: words as they are written, and fields. `bracketed` has what stands in two brackets."""

    pieces: tuple[str | Field, ...]
    problems: tuple[WordingProblem, ...]
    bracketed: tuple[str, ...] = ()

    @property
    def fields(self) -> list[Field]:
        """The fields, in order."""
        return [piece for piece in self.pieces if isinstance(piece, Field)]


def parse_wording(wording: str) -> Wording:
    """Never raises: what cannot be read as a field stays plain text and comes back as a problem with its place.

    Two brackets of a kind, {{ or }}, write one.

    Line ends are counted as one character each, as the handset shows them.
    """
    text = wording.replace("\r\n", "\n").replace("\r", "\n")
    pieces: list[str | Field] = []
    problems: list[WordingProblem] = []
    at = 0
    for match in _FIELD.finditer(text):
        _plain(text, at, match.start(), pieces, problems)
        at = match.end()
        if match[1] is None:
            pieces.append(match[0][0])
            continue
        name = " ".join(match[1][1:-1].split())
        if name:
            pieces.append(Field(name, match.start(), match.end()))
        else:
            pieces.append(match[0])
            problems.append(
                WordingProblem(match.start(), match.end(), "A field without a name.", "Write a column's name in it.")
            )
    _plain(text, at, len(text), pieces, problems)
    if len(text) > MOST_CHARACTERS:
        problems.append(
            WordingProblem(
                MOST_CHARACTERS,
                len(text),
                f"The wording has {len(text):,} characters; at most {MOST_CHARACTERS:,} are kept.",
                "Shorten it.",
            )
        )
    return Wording(tuple(pieces), tuple(problems), tuple(_IN_TWO.findall(text)))


def _plain(text: str, start: int, end: int, pieces: list[str | Field], problems: list[WordingProblem]) -> None:
    if start == end:
        return
    pieces.append(text[start:end])
    for i in range(start, end):
        if text[i] == "{":
            problems.append(
                WordingProblem(
                    i,
                    i + 1,
                    "A field that is opened and not closed.",
                    "Close it with } behind the column's name.",
                )
            )
        elif text[i] == "}":
            problems.append(
                WordingProblem(i, i + 1, "A closing bracket without a field.", "Put { in front of the column's name.")
            )


def unknown_fields(wording: Wording, columns: Sequence[str]) -> list[WordingProblem]:
    """A problem for every field that no column answers to, with the columns that come closest."""
    known = {column_key(column) for column in columns}
    return [
        WordingProblem(
            field.start,
            field.end,
            f'No column is called "{clipped(field.name)}".',
            f"There is {listed(columns, 6)}.",
        )
        for field in wording.fields
        if column_key(field.name) not in known
    ]
