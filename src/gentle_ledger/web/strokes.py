"""The strokes of a tally, one a text or one for several."""

from collections.abc import Sequence

from gentle_ledger.core.rounds.marks import Mark

MOST_STROKES = 600


_LETTER = {Mark.TO_GO: "t", Mark.GOING: "g", Mark.SENT: "s", Mark.FAILED: "f", Mark.UNSURE: "u"}


def strokes_of(marks: Sequence[Mark], most: int = MOST_STROKES) -> tuple[str, int]:
    """One letter a stroke, `most` of them, and how many texts a stroke stands for.

    A stroke for several texts shows the worst of them, so that no failed one hides in a stroke of sent ones; while some
    of them are still to go and none is failed or unsure, it is half drawn.
    """
    each = max(1, -(-len(marks) // most))
    if each == 1:
        return "".join(_LETTER[mark] for mark in marks), 1
    letters = []
    for start in range(0, len(marks), each):
        here = set(marks[start : start + each])
        if Mark.FAILED in here:
            letters.append("f")
        elif Mark.UNSURE in here:
            letters.append("u")
        elif len(here) == 1:
            letters.append(_LETTER[here.pop()])
        else:
            letters.append("g")
    return "".join(letters), each
