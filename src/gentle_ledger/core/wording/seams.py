"""What is left around a field that comes to no text: no space stands twice for it, and no line is left empty."""

from collections.abc import Sequence


def closed_up(pieces: Sequence[str]) -> list[str]:
    """The pieces of a text with what stood around each empty one drawn together; as many as before.

    Of two spaces that meet where nothing stands between them, one goes, and those at the beginning or the end of its
    line. A line that is left without anything goes with its end, and of two empty lines that meet by that, one. Spaces
    and line ends elsewhere are left as they are.
    """
    found = list(pieces)
    for at, piece in enumerate(found):
        if not piece:
            before, after = "".join(found[:at]), "".join(found[at + 1 :])
            left, right = _drawn_together(before, after)
            _cut(found, range(at - 1, -1, -1), len(before) - len(left), at_end=True)
            _cut(found, range(at + 1, len(found)), len(after) - len(right), at_end=False)
    return found


def _drawn_together(left: str, right: str) -> tuple[str, str]:
    """What stood in front of nothing and behind it; the one loses at its end only, the other at its beginning."""
    if not right or right.startswith("\n"):
        left = left.rstrip(" ")
    if not left or left.endswith("\n"):
        right = right.lstrip(" ")
        if not right or right.startswith("\n"):
            return _without_line(left, right)
    if left.endswith(" ") and right.startswith(" "):
        right = right[1:]
    return left, right


def _without_line(left: str, right: str) -> tuple[str, str]:
    if not right:
        return left.rstrip("\n"), right
    if not left:
        return left, right.lstrip("\n")
    right = right[1:]
    return left, right.removeprefix("\n") if left.endswith("\n\n") else right


def _cut(pieces: list[str], places: range, characters: int, *, at_end: bool) -> None:
    """Takes that many characters off, from the pieces at the places in their order."""
    for place in places:
        here = min(characters, len(pieces[place]))
        pieces[place] = pieces[place][: len(pieces[place]) - here] if at_end else pieces[place][here:]
        characters -= here
