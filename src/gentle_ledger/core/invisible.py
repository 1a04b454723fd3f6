"""Marks that cannot be seen: they change no reading and no comparison."""

import unicodedata

# The letters of these scripts join or part by them (Unicode 16, 23.2), yet no two names differ by them alone.
_WHITE = {"Zs", "Zl", "Zp"}
_UNSEEN = {"Cf", "Cc"}


def visible(text: str) -> str:
    """The text without marks of no width (zero width, soft hyphen, direction) and with plain spaces, none at its ends.

    Tabs and line ends count as spaces. The categories are those of the Unicode Character Database.
    """
    if text.isascii() and text.isprintable():
        return text.strip()
    return "".join(_shown(character) for character in text).strip()


def _shown(character: str) -> str:
    if character == " " or character.isspace() or unicodedata.category(character) in _WHITE:
        return " "
    return "" if unicodedata.category(character) in _UNSEEN else character


def compared(text: str) -> str:
    """Under which two texts that look alike are the same: marks that cannot be seen, runs of spaces and case go.

    Characters that Unicode holds to be the same (its normal form C, UAX 15) are the same here.
    """
    if not text.isascii():
        text = unicodedata.normalize("NFC", text)
    return " ".join(visible(text).split()).casefold()
