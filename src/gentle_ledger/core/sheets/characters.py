"""The characters of a text file: UTF-8 or UTF-16 where they are that, else a question unless they are plain."""

import itertools
import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.words import clipped, listed

_BOMS = ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))
_USED_CONTROLS = frozenset("\t\n\f\r")
_LOOK_AT = 4096
_MOST_CONTROLS = 0.1
"""More unused control characters than this share are no text."""

READINGS = {
    "windows-1252": "Western Europe",
    "windows-1250": "Central Europe",
    "windows-1251": "Cyrillic",
    "mac-roman": "older Mac",
    "cp850": "DOS, Western Europe",
    "shift_jis": "Japanese",
}
"""The ways in which a text file can be read, by their name (IANA, and Python's own), with where they are used."""


@dataclass(frozen=True, slots=True)
class Decoded:
    """A text, and the ways in which its characters could be read where it does not tell: each with a word of it."""

    text: str
    readings: tuple[tuple[str, str], ...] = ()


def is_text(data: bytes) -> bool:
    """Whether the bytes are a text in some encoding."""
    try:
        decode(data, guess=True)
    except SheetError:
        return False
    return True


def decode(data: bytes, characters: str | None = None, before: str | None = None, *, guess: bool = False) -> Decoded:
    """Text from the bytes of a spreadsheet's text file: UTF-8, UTF-16, else plainly Windows-1252, else a question.

    Args:
        data: the bytes.
        characters: the answer, one of READINGS.
        before: the answer for an earlier file, which is good where this one leaves the same open.
        guess: takes the likeliest reading where there is no answer, to show the first lines by, and names the others.

    Raises:
        SheetError: the bytes are no text at all, or could be several.
    """
    for bom, encoding in _BOMS:
        if data.startswith(bom):
            return Decoded(_cleaned(_strictly(data, encoding)))
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        text = None
    if text is not None and "\0" not in text:
        return Decoded(_cleaned(text))
    if data.count(0) > len(data) // 4:
        encoding = "utf-16-le" if data[1::2].count(0) > data[::2].count(0) else "utf-16-be"
        return Decoded(_cleaned(_strictly(data, encoding)))
    if 0 in data:
        raise _not_text()
    return _one_byte_each(data, characters, before, guess=guess)


def _one_byte_each(data: bytes, characters: str | None, before: str | None, *, guess: bool) -> Decoded:
    """Text that is neither UTF-8 nor UTF-16."""
    if characters is not None and characters not in READINGS:
        raise SheetError(
            f'"{clipped(characters)}" is no way of reading characters.', f"There is {listed(list(READINGS), 6)}."
        )
    if characters is not None and not guess:
        return Decoded(_cleaned(_strictly(data, characters)))
    western = _readable(data, "windows-1252")
    if western is not None and all(map(_is_plain, _odd_words(western))):
        return Decoded(_cleaned(western))
    likely = sorted(_candidates(data), key=lambda found: -found[2])
    if not likely:
        raise _not_text()
    readings = tuple((name, word) for name, word, _ in likely[:4])
    if before in {name for name, _ in readings}:
        return Decoded(_cleaned(_strictly(data, before or "")), readings)
    if guess:
        return Decoded(_cleaned(_strictly(data, characters or readings[0][0])), readings)
    shown = listed([f"“{word}” ({READINGS[name]})" for name, word in readings]).replace(" and ", " or ")
    raise SheetError(
        f"The file does not say how its characters are to be read: {shown}.",
        "Look at it first and choose, or save it as CSV in UTF-8.",
    )


def _readable(data: bytes, encoding: str) -> str | None:
    try:
        return data.decode(encoding)
    except UnicodeDecodeError:
        return None


def _strictly(data: bytes, encoding: str) -> str:
    text = _readable(data, encoding)
    if text is None:
        raise _not_text()
    return text


def _cleaned(text: str) -> str:
    """The text without control characters that nothing shows. Raises SheetError where it is made of them."""
    unused = [c for c in text[:_LOOK_AT] if c < " " and c not in _USED_CONTROLS]
    if len(unused) > _MOST_CONTROLS * min(len(text), _LOOK_AT):
        raise _not_text()
    return _CONTROLS.sub("", text)


_CONTROLS = re.compile("[\x00-\x08\x0b\x0e-\x1f\x7f]")


def _not_text() -> SheetError:
    return SheetError(
        "The file is not a text file with separated values.",
        "Save the sheet as CSV or XLSX in the spreadsheet program and bring that in.",
    )


_WORD = re.compile(r"[^\s,;|\"]*[^\x00-\x7f][^\s,;|\"]*")
_MOST_WORDS = 5_000


def _odd_words(text: str) -> Iterator[str]:
    """The words with something in them that plain ASCII lacks, the first few thousand."""
    for count, match in enumerate(_WORD.finditer(text)):
        if count == _MOST_WORDS:
            return
        yield match[0]


# Letters beyond a to z of the languages that Windows-1252 was made for; from memory.
_ALPHABETS = tuple(
    frozenset(letters)
    for letters in (
        "àâæçèéêëîïôœùûüÿ",
        "äöüß",
        "áàâãäçéêëèíïìóòôõöúùüñ",
        "åäæöøéèêüô",
        "áðéíóúýþæö",
        "áéíóúäëïöü",
    )
)
_BESIDE_FIGURES = frozenset("€£¥¢°½¼¾²³§±µ©®™·ªº¿¡«»‹›–—‘’‚“”„…•†‡‰ˆ˜¨´¸×÷¬¦\u00a0\u00ad")
_QUOTES = frozenset("‘’“”„«»‹›…–—\u00a0\u00ad´·")
_AFTER_WORDS = frozenset("™®©ªº")


@lru_cache(maxsize=8192)
def _is_plain(word: str) -> bool:
    """Whether a word read as Windows-1252 looks like one: letters of one language, marks where marks stand."""
    odd = [c for c in word if c > "\x7f"]
    letters = [c for c in word if c.isalpha()]
    accented = {c.casefold() for c in odd if c.isalpha() and c not in _AFTER_WORDS} - {"ss"}
    if any(c not in _BESIDE_FIGURES and not c.isalpha() for c in odd) or any("\x80" <= c < "\xa0" for c in odd):
        return False
    for i, c in enumerate(word):
        inside = word[i - 1 : i].isalpha() or word[i + 1 : i + 2].isalpha()
        if c == "°" and word[i + 1 : i + 2] in {"C", "F"}:
            continue
        if c > "\x7f" and not c.isalpha() and c not in _QUOTES | _AFTER_WORDS and inside:
            return False
    if len(letters) > 1 and 2 * sum(c > "\x7f" for c in letters) > len(letters):
        return False
    return not accented or any(accented <= alphabet for alphabet in _ALPHABETS)


def _candidates(data: bytes) -> Iterator[tuple[str, str, float]]:
    """The ways in which the bytes can be read, each with a word that shows it and how likely it looks."""
    seen = set()
    for name in READINGS:
        text = _readable(data, name)
        if text is None:
            continue
        words = list(_odd_words(text))
        if words and tuple(words[:50]) not in seen:
            seen.add(tuple(words[:50]))
            yield name, clipped(max(words[:20], key=len)), sum(map(_likeliness, words)) / len(words)


def _likeliness(word: str) -> float:
    """Between 0 and 1: letters of one script, in a usual order of capitals, with no marks in between."""
    letters = [c for c in word if c.isalpha()]
    marks = sum(c > "\x7f" and not c.isalpha() for c in word)
    if not letters:
        return 0.5 if all(c in _BESIDE_FIGURES for c in word if c > "\x7f") else 0.0
    scripts = {unicodedata.name(c, "?").split()[0] for c in letters} - {"CJK", "HIRAGANA", "KATAKANA"}
    capitals_inside = sum(b.isupper() and a.islower() for a, b in itertools.pairwise(letters))
    score = 1.0 - 0.5 * (len(scripts) > 1) - 0.4 * min(capitals_inside, 2) - 0.5 * min(marks, 2)
    if scripts == {"LATIN"}:
        odd = sum(c > "\x7f" for c in letters)
        score -= 0.5 * (len(letters) > 1 and 2 * odd > len(letters))
        score -= 0.1 * (not _is_plain(word))
    return max(score, 0.0)
