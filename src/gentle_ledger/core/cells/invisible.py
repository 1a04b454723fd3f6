"""Marks that cannot be seen: they change no reading and no comparison."""

import unicodedata

# In some scripts letters join or part by them (Unicode 16, 23.2), yet no two names differ by them alone.
_WHITE = {"Zs", "Zl", "Zp"}
_UNSEEN = {"Cf", "Cc"}


def shown(text: str) -> str:
    """The text without marks of no width (zero width, soft hyphen, direction), every kind of space a plain one.

    Tabs and line ends count as spaces. The categories are those of the Unicode Character Database.
    """
    if text.isascii() and text.isprintable():
        return text
    return "".join(_shown(character) for character in text)


def visible(text: str) -> str:
    """The same without spaces at its ends."""
    return shown(text).strip()


def without_apostrophe(text: str) -> str:
    """A figure or a day without the apostrophe by which a spreadsheet is told to keep it as text, or without two."""
    if text[:1] not in _APOSTROPHES:
        return text
    return text[1:-1].strip() if text[-1] in _APOSTROPHES else text[1:].strip()


def without_accents(text: str) -> str:
    """Letters without their accents, as capitals are often typed (Unicode, normal form KD, UAX 15)."""
    if text.isascii():
        return text
    return "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))


_APOSTROPHES = ("'", "\u2018", "\u2019", "`", "\u00b4")


_JOINERS = "\u200c\u200d"
_RIGHT_TO_LEFT = frozenset({"R", "AL", "AN"})


def as_read(text: str) -> str:
    """A cell's text as it goes into texts and formulas: `visible`, but for marks that its script needs.

    Joiners shape letters of some scripts and emoji, and direction marks order those that run from right to left.
    """
    if text.isascii() and text.isprintable():
        return text.strip()
    turned = any(unicodedata.bidirectional(c) in _RIGHT_TO_LEFT for c in text)
    kept = (c if c in _JOINERS or (turned and c in _DIRECTIONS) or c == "\n" else _shown(c) for c in text)
    return "".join(kept).strip()


_DIRECTIONS = frozenset("\u200e\u200f\u061c\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")


def alike(text: str) -> str:
    """Under which two texts are equal in a formula: as they are seen, in any case.

    Characters that Unicode holds to be the same (its normal form C, UAX 15) are the same here.
    """
    return shown(text if text.isascii() else unicodedata.normalize("NFC", text)).casefold()


def in_order(text: str) -> tuple[list[tuple[int, str]], list[str]]:
    """By what two texts are ranked: letters by the alphabet first, accents only where these are the same.

    Spaces and marks come before digits and digits before letters, as in the root collation of CLDR (UTS 35, part 5;
    UTS 10). Only scripts whose letters stand in the order of their code points are ranked right by this.
    """
    apart = unicodedata.normalize("NFD", alike(text))
    letters = [c for c in apart if not unicodedata.combining(c)]
    return [(_rank(c), c) for c in letters], [c for c in apart if unicodedata.combining(c)]


def _rank(character: str) -> int:
    if character.isspace():
        return 0
    if character.isdigit():
        return _DIGIT
    return _DIGIT + 1 if character.isalpha() else _MARKS[unicodedata.category(character)[0]]


_MARKS = {"P": 1, "S": 2, "C": 0, "Z": 0, "M": 0, "N": 3, "L": 4}
_DIGIT = 3


def _shown(character: str) -> str:
    if character == " " or character.isspace() or unicodedata.category(character) in _WHITE:
        return " "
    return "" if unicodedata.category(character) in _UNSEEN else character


def compared(text: str) -> str:
    """Under which two names or keys are the same: as `alike`, and runs of spaces count as one."""
    return " ".join(alike(text).split())
