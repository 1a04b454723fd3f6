"""The GSM 7-bit default alphabet and its extension table (3GPP TS 23.038, 6.2.1 and 6.2.1.1; written from memory)."""

import re
from enum import StrEnum

BASIC = (
    "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ"
    " !\"#¤%&'()*+,-./0123456789:;<=>?"
    "¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§"
    "¿abcdefghijklmnopqrstuvwxyzäöñüà"
)
"""One septet each. The escape (0x1B) is no character of its own and is left out."""

EXTENSION = "\f^{}\\[~]|€"
"""Two septets each: the escape, then the character."""

_IN_GSM = re.compile(f"[{re.escape(BASIC + EXTENSION)}]*")
_EXTENSION = re.compile(f"[{re.escape(EXTENSION)}]")


class Alphabet(StrEnum):
    """The alphabets of 3GPP TS 23.038 that a text can be sent in."""

    GSM_7 = "GSM-7"
    UCS_2 = "UCS-2"


def first_beyond(text: str) -> int | None:
    """Where the first character stands that the 7-bit alphabet lacks, in code points; None when there is none."""
    match = _IN_GSM.match(text)
    end = match.end() if match else 0
    return None if end == len(text) else end


def septets(text: str) -> int:
    """The length in septets of a text that the 7-bit alphabet can write."""
    return len(text) + len(_EXTENSION.findall(text))


def utf16_units(text: str) -> int:
    """The length in UTF-16 code units: a character beyond U+FFFF counts two."""
    return len(text.encode("utf-16-le", "surrogatepass")) // 2


def width(character: str, alphabet: Alphabet) -> int:
    """What one character takes: septets or UTF-16 code units."""
    if alphabet is Alphabet.GSM_7:
        return 2 if character in EXTENSION else 1
    return 2 if ord(character) > 0xFFFF else 1
