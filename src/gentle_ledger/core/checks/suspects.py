"""Which texts may have something in them, found without reading all of them: a wording is read once, a cell once."""

import re
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.wording.bound import BoundWording

_ANY_VALUE = "x"
"""Stands for a field where a wording's own words are searched."""


def words_of(wording: BoundWording) -> str:
    """The wording's own words, with one letter for each field."""
    return "".join(piece if isinstance(piece, str) else _ANY_VALUE for piece in wording.wording.pieces)


def found_in_texts(
    view: RoundView,
    rows: Sequence[int],
    pattern: re.Pattern[str],
    in_value: re.Pattern[str],
    but: frozenset[Role] = frozenset(),
) -> Iterator[tuple[int, re.Match[str]]]:
    """The rows in whose text a pattern is found, each with the first place.

    Args:
        view: the round.
        rows: those to look at.
        pattern: what is looked for.
        in_value: finds a cell because of which a text may have it although the wording's own words have not.
        but: roles of columns whose cells are not looked at.
    """
    composer, texts = view.composer, view.texts
    for wording, mine in view.by_wording(rows):
        candidates: Sequence[int] = mine
        if not pattern.search(words_of(wording)):
            places = set[int]()
            for position, column in wording.used.items():
                if composer.roles[position] not in but:

                    def suspicious(shown: Sequence[object] = column.shown.whole()) -> frozenset[int]:
                        search = in_value.search
                        return frozenset(at for at, text in enumerate(shown) if isinstance(text, str) and search(text))

                    key = ("suspicious", in_value.pattern, column.shown_key)
                    places |= composer.evaluation.kept(key, [column], suspicious)
            candidates = [row for row in mine if composer.groups.place(row) in places] if places else ()
        for row in candidates:
            if match := pattern.search(texts[row]):
                yield row, match
