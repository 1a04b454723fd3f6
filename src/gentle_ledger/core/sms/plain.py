"""Plain characters for special ones: signs and spaces that say the same, and letters without their accent."""

import unicodedata

from gentle_ledger.core.sms.alphabet import first_beyond

_SIGNS = {
    "\u2018\u2019\u201a\u201b\u2032\u00b4\u0060": "'",
    "\u201c\u201d\u201e\u201f\u2033\u00ab\u00bb": '"',
    "\u2039": "<",
    "\u203a": ">",
    "\u2010\u2011\u2012\u2013\u2014\u2015\u2212": "-",
    "\u2026": "...",
    "\u2022\u00b7\u2023": "*",
    "\u00d7": "x",
    "\u00a0\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a\u202f\u205f\u3000\u0009": " ",
    "\u200b\u2060\ufeff\u00ad": "",
}

PLAIN_SIGNS = {sign: plain for signs, plain in _SIGNS.items() for sign in signs}
"""Punctuation and spaces that the 7-bit alphabet lacks, each with what says the same; common practice, no source."""


def plain_letter(letter: str) -> str | None:
    """A letter without its accent (NFD, Unicode Standard Annex 15), where the 7-bit alphabet has that one.

    None for what has no accent, and for what the alphabet has as it is.
    """
    if first_beyond(letter) is None:
        return None
    bare = "".join(c for c in unicodedata.normalize("NFD", letter) if not unicodedata.combining(c))
    return bare if bare and bare != letter and first_beyond(bare) is None else None


def plain_for(character: str) -> str | None:
    """What can stand for a special character; None where nothing can without saying something else."""
    return PLAIN_SIGNS[character] if character in PLAIN_SIGNS else plain_letter(character)


def replaced(text: str, characters: str) -> str:
    """A text with those of its characters replaced that something plain can stand for; all others as they are."""
    table = {ord(c): plain for c in characters if (plain := plain_for(c)) is not None}
    return text.translate(table)
