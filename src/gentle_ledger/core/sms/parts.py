"""How many parts a text is carried in, and where it is torn (3GPP TS 23.040, 9.2.3.24.1).

A text alone has 140 octets: 160 septets or 70 UTF-16 code units. Joined parts give 6 of them to their header, which
leaves 153 septets or 67 units a part. A part never ends inside an extension pair or a surrogate pair.
"""

from dataclasses import dataclass
from functools import lru_cache

from gentle_ledger.core.sms.alphabet import Alphabet, first_beyond, septets, utf16_units, width

ALONE = {Alphabet.GSM_7: 160, Alphabet.UCS_2: 70}
JOINED = {Alphabet.GSM_7: 153, Alphabet.UCS_2: 67}
MOST_PARTS = 255
"""The header counts parts in one octet."""


@dataclass(frozen=True, slots=True)
class Measure:
    """The size of a text: `characters` in septets (GSM-7) or UTF-16 code units (UCS-2), fill not counted."""

    alphabet: Alphabet
    characters: int
    parts: int

    @property
    def room(self) -> int:
        """How many characters fit in this many parts."""
        return ALONE[self.alphabet] if self.parts == 1 else JOINED[self.alphabet] * self.parts


def measure(text: str) -> Measure:
    """Alphabet, length and number of parts. An empty text counts as one part: our convention."""
    if first_beyond(text) is None:
        alphabet, characters = Alphabet.GSM_7, septets(text)
    else:
        alphabet, characters = Alphabet.UCS_2, utf16_units(text)
    if characters <= ALONE[alphabet]:
        return _shared(alphabet, characters, 1)
    if characters == len(text):
        # No pair that could be torn: every part but the last is full.
        return _shared(alphabet, characters, -(-characters // JOINED[alphabet]))
    return _shared(alphabet, characters, len(_torn(text, alphabet)))


@lru_cache(maxsize=4096)
def _shared(alphabet: Alphabet, characters: int, parts: int) -> Measure:
    """A long round has few different sizes: its texts share them."""
    return Measure(alphabet, characters, parts)


def plain_parts(text: str) -> int:
    """How many parts a text would take if each character that the 7-bit alphabet lacks were one that it has."""
    return measure("".join(character if first_beyond(character) is None else "?" for character in text)).parts


def tear(text: str) -> list[str]:
    """The text in its parts, in order; joined they give the text back."""
    size = measure(text)
    return [text] if size.parts == 1 else _torn(text, size.alphabet)


def _torn(text: str, alphabet: Alphabet) -> list[str]:
    room = JOINED[alphabet]
    parts: list[str] = []
    start = used = 0
    for i, character in enumerate(text):
        need = width(character, alphabet)
        if used + need > room:
            parts.append(text[start:i])
            start, used = i, 0
        used += need
    return [*parts, text[start:]]
