"""Whether two names may be of one person: case, accents, the order of the words and initials make no other one."""

import re
from collections.abc import Iterable, Sequence

from gentle_ledger.core.cells.invisible import compared, without_accents

_LATER_ONE = frozenset(
    {"jr", "sr", "jnr", "snr", "jun", "sen", "junior", "senior", "ii", "iii", "iv"}
    | {"fils", "pere", "figlio", "padre", "hijo"}
)
"""By these a child is told from a parent of the same name (common practice, no source)."""
_MOST_COMPARED = 50


def may_be_one_person(one: str, other: str) -> bool:
    """Whether the words of the shorter name are all among those of the longer one, each as it is or by its initial.

    A name without a word says nothing. "Ines" may be "Ines Wolny", and "Wolny, I." as well; "Mr. Wolny" is not
    "Mrs. Wolny", and a junior is not the person without that word.
    """
    shorter, longer = sorted((_words(one), _words(other)), key=len)
    if set(shorter) & _LATER_ONE != set(longer) & _LATER_ONE and shorter:
        return False
    left = list(longer)
    rest = []
    for word in shorter:
        if word in left:
            left.remove(word)
        else:
            rest.append(word)
    for word in sorted(rest, key=len, reverse=True):
        fitting = next((each for each in left if _is_initial(word, each)), None)
        if fitting is None:
            return False
        left.remove(fitting)
    return True


def _words(name: str) -> list[str]:
    return re.findall(r"[^\W_]+", without_accents(compared(name)))


def _is_initial(one: str, other: str) -> bool:
    return one[0] == other[0] and 1 in (len(one), len(other))


def are_one_person(names: Sequence[str]) -> bool:
    """Whether all of these names may be of one person. Of very many, each is held against the first."""
    different = list(dict.fromkeys(names))
    against = different if len(different) <= _MOST_COMPARED else different[:1]
    return all(may_be_one_person(one, other) for one in against for other in different)


def all_known(names: Iterable[str], known: Sequence[str]) -> bool:
    """Whether each of these names may be one of those."""
    return all(any(may_be_one_person(name, each) for each in known) for name in set(names))
