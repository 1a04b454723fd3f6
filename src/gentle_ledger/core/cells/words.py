"""Small helpers for sentences: counts with their noun, lists with "and"."""

import re
from collections.abc import Sequence

_SMALL = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")


def count(n: int, noun: str, plural: str | None = None) -> str:
    """`count(1, "row")` is "1 row", `count(12000, "row")` is "12,000 rows"."""
    return f"{n:,} {noun if n == 1 else plural or noun + 's'}"


def small(n: int) -> str:
    """A small whole number in letters, a larger one in digits, as running text has it."""
    return _SMALL[n] if 0 <= n < len(_SMALL) else f"{n:,}"


def listed(things: Sequence[str], most: int = 4) -> str:
    """`listed(["A", "B", "C"])` is "A, B and C"; past `most` the rest is counted."""
    if len(things) > most:
        return f"{', '.join(things[:most])} and {len(things) - most:,} more"
    if len(things) < 2:
        return "".join(things)
    return f"{', '.join(things[:-1])} and {things[-1]}"


def clipped(text: str, most: int = 40) -> str:
    """A value quoted in a sentence, cut short when it is long."""
    flat = " ".join(text.split())
    return flat if len(flat) <= most else flat[: most - 1] + "…"


def printable(value: object, most: int) -> str:
    """What somebody else's program said, fit to be kept and shown: no control or direction marks, no lone surrogates.

    Cut short past `most` characters. Only the beginning is looked at, so that a huge value costs nothing.
    """
    beginning = str(value)[: 4 * most] if isinstance(value, (str, int, float)) else ""
    return clipped("".join(c if c.isprintable() else " " for c in beginning), most)


_DOUBLED = re.compile(r"(?<=\S)[ \u00a0]{2,}(?=\S)")
_BEFORE_MARK = re.compile(r"(?<=\S)[ \u00a0]+(?=[,.;](?:\s|$))")


def spaces_closed(text: str) -> str:
    """A text in which no space stands twice between two words, or in front of a comma, semicolon or full stop.

    Spaces at the beginning or the end of a line stay, as does all else.
    """
    return _DOUBLED.sub(" ", _BEFORE_MARK.sub("", text))
