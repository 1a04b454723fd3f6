"""What a round's texts weigh: how many parts they take, and which characters make them take more."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from gentle_ledger.core.checks.phrases import character_name
from gentle_ledger.core.checks.suspects import words_of
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.sms.alphabet import Alphabet, first_beyond
from gentle_ledger.core.sms.parts import ALONE, JOINED, measure
from gentle_ledger.core.sms.plain import PLAIN_SIGNS, plain_for, replaced


@dataclass(frozen=True, slots=True)
class Costly:
    """A special character that something plain could stand for.

    Attributes:
        character, name: the character, and what it is called.
        plain: what could stand for it; "" where it could be left away.
        letter: whether it is a letter, which would lose its accent.
        texts: how many of the ready texts have it.
        parts_less: how many parts fewer all texts would take without this one alone.
        columns: the columns that it stands in.
        in_wording: whether it stands in a wording's own words.
    """

    character: str
    name: str
    plain: str
    letter: bool
    texts: int
    parts_less: int
    columns: tuple[str, ...]
    in_wording: bool


@dataclass(frozen=True, slots=True)
class Weight:
    """What the ready texts take.

    Attributes:
        texts: how many take 1, 2, 3 … parts.
        one_less: how many would take a part fewer with one character less.
        signs_less: how many parts fewer all would take with every sign and space among the costly ones replaced.
        costly: the special characters that could be plain ones, those that save most first.
    """

    texts: Sequence[tuple[int, int]]
    one_less: int
    signs_less: int
    costly: Sequence[Costly]


def weight_of(computed: Computed) -> Weight:
    """Weighs the texts that may be sent."""
    sizes = [computed.measures[row] for row in computed.ready]
    special = [computed.texts[row] for row in computed.ready if computed.measures[row].alphabet is Alphabet.UCS_2]
    found = Counter(c for text in special for c in set(text) if first_beyond(c) is not None)
    plain = {character: p for character in found if (p := plain_for(character)) is not None}
    signs = "".join(character for character in plain if character in PLAIN_SIGNS)
    costly = [
        Costly(
            character,
            character_name(character),
            plain[character],
            character not in PLAIN_SIGNS,
            found[character],
            _less([text for text in special if character in text], character),
            tuple(_columns_with(computed, character)),
            any(character in words_of(wording) for wording in computed.composer.wordings),
        )
        for character in plain
    ]
    costly.sort(key=lambda each: (each.letter, -each.parts_less, -each.texts, each.character))
    return Weight(
        sorted(Counter(size.parts for size in sizes).items()),
        sum(size.parts > 1 and _one_less(size.alphabet, size.characters, size.parts) for size in sizes),
        _less(special, signs),
        costly,
    )


def _one_less(alphabet: Alphabet, characters: int, parts: int) -> bool:
    """True where the text is one character longer than what fits in a part fewer."""
    return characters - 1 == (ALONE[alphabet] if parts == 2 else JOINED[alphabet] * (parts - 1))


def _less(texts: Sequence[str], characters: str) -> int:
    if not characters:
        return 0
    return sum(measure(text).parts - measure(replaced(text, characters)).parts for text in texts)


def _columns_with(computed: Computed, character: str) -> list[str]:
    """The columns that the wordings use and in which the character stands, as it is shown."""
    composer = computed.composer
    return [
        composer.columns.names[position]
        for position in composer.used
        if any(isinstance(shown, str) and character in shown for shown in composer.column(position).shown.whole())
    ]
