"""Beside last time: the rows of a round matched with those of an earlier one, and their amounts side by side."""

import re
from collections import Counter
from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum

from gentle_ledger.core.cells.invisible import compared
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.rounds.compute import Computed


@dataclass(frozen=True, slots=True)
class Stood:
    """A row with a text of its own, as it stands in one round.

    Attributes:
        row: counted from 0.
        label: what a clerk calls it.
        number: E.164, or "".
        codes: its references as they are compared.
        amount: that of the round's money column; None where it has none, or none that can be relied on.
        shown: the same as it stands in a text, or "".
    """

    row: int
    label: str
    number: str
    codes: tuple[str, ...]
    amount: Decimal | None
    shown: str


class Beside(StrEnum):
    """How a row stands beside last time."""

    OTHER_NUMBER = "other number"
    OTHER_NAME = "other name"
    CHANGED = "changed"
    UNCLEAR = "unclear"
    NEW = "new"
    GONE = "gone"
    SAME = "much the same"


_ORDER = list(Beside)


@dataclass(frozen=True, slots=True)
class Pair:
    """A row now and last time; one of them is None where it stands in one of the rounds only.

    `share` is by how much the amount changed, as a share of last time's; None where there is nothing to compare.
    `why` says why it is unclear, or "".
    """

    kind: Beside
    now: Stood | None
    before: Stood | None
    share: Decimal | None
    why: str = ""


SEVERAL = "several rows share its reference or number"
NO_AMOUNT = "there is no amount to compare"


def beside(now: Sequence[Stood], before: Sequence[Stood], share: Decimal) -> list[Pair]:
    """The rows of a round beside those of an earlier one, what is worth a look first.

    Rows are matched by their first reference, and where that does not stand in both rounds, by their number. What
    stands more than once in either of them matches nothing by itself: its rows are unclear. A row whose number is
    another one than last time, or whose name is, says so whatever its amount: a column may have slipped.

    Args:
        now: the rows of this round.
        before: those of the earlier one.
        share: by how much of last time's amount one must have changed to be listed as changed, such as 0.25.
    """
    unmatched_now, unmatched_before = list(now), list(before)
    pairs: list[Pair] = []
    for key in (_reference, _number):
        found, unmatched_now, unmatched_before = _matched(unmatched_now, unmatched_before, key)
        pairs += [_pair(mine, theirs, share) for mine, theirs in found]
    shared = _shared(unmatched_now, unmatched_before)
    for mine in unmatched_now:
        pairs.append(_alone(Beside.NEW, mine, shared))
    for theirs in unmatched_before:
        pairs.append(_alone(Beside.GONE, theirs, shared))
    return sorted(pairs, key=_weight)


def _reference(stood: Stood) -> Hashable | None:
    return stood.codes[0] if stood.codes else None


def _number(stood: Stood) -> Hashable | None:
    return stood.number or None


def _matched(
    now: list[Stood], before: list[Stood], key: Callable[[Stood], Hashable | None]
) -> tuple[list[tuple[Stood, Stood]], list[Stood], list[Stood]]:
    """The rows whose key stands just once in each of both rounds, and what is left of both."""
    mine, theirs = _once(now, key), _once(before, key)
    both = mine.keys() & theirs.keys()
    pairs = [(mine[each], theirs[each]) for each in mine if each in both]
    return pairs, [s for s in now if key(s) not in both], [s for s in before if key(s) not in both]


def _once(rows: Iterable[Stood], key: Callable[[Stood], Hashable | None]) -> dict[Hashable, Stood]:
    found = [(value, stood) for stood in rows if (value := key(stood)) is not None]
    times = Counter(value for value, _ in found)
    return {value: stood for value, stood in found if times[value] == 1}


def _shared(now: Iterable[Stood], before: Iterable[Stood]) -> set[Hashable]:
    """The references and numbers that stand on both sides still: more than once on one of them."""

    def keys(rows: Iterable[Stood]) -> Iterator[Hashable]:
        return (value for stood in rows for value in (_reference(stood), _number(stood)) if value is not None)

    return set(keys(now)) & set(keys(before))


def _alone(kind: Beside, stood: Stood, shared: set[Hashable]) -> Pair:
    unclear = _reference(stood) in shared or _number(stood) in shared
    mine, theirs = (stood, None) if kind is Beside.NEW else (None, stood)
    return Pair(Beside.UNCLEAR if unclear else kind, mine, theirs, None, SEVERAL if unclear else "")


def _pair(mine: Stood, theirs: Stood, least: Decimal) -> Pair:
    share, why = None, ""
    if mine.amount is None or theirs.amount is None:
        kind, why = Beside.UNCLEAR, NO_AMOUNT
    elif theirs.amount == 0:
        kind = Beside.SAME if mine.amount == 0 else Beside.CHANGED
    else:
        share = (mine.amount - theirs.amount) / abs(theirs.amount)
        kind = Beside.CHANGED if abs(share) > least else Beside.SAME
    if mine.number != theirs.number:
        kind = Beside.OTHER_NUMBER
    elif mine.label and theirs.label and compared(mine.label) != compared(theirs.label):
        kind = Beside.OTHER_NAME
    return Pair(kind, mine, theirs, share, why)


def _weight(pair: Pair) -> tuple[int, Decimal, int]:
    row = (pair.now or pair.before or _NOBODY).row
    return _ORDER.index(pair.kind), -abs(pair.share or Decimal()), row


_NOBODY = Stood(0, "", "", (), None, "")


def stood_now(computed: Computed, rows: Iterable[int]) -> tuple[str, list[Stood]]:
    """Some rows (from 0) of a round as they stand, and the money column that their amounts are from; "" without one."""
    position = _money_column(computed)
    composer, view = computed.composer, computed.view
    column = None if position is None else composer.column(position)
    amounts = view.by_row(column.values) if column else [None] * len(computed)
    shown = view.by_row(column.shown) if column else [None] * len(computed)
    found = []
    for row in rows:
        amount, written = amounts[row], shown[row]
        found.append(
            Stood(
                row,
                composer.label(row),
                computed.numbers[row].e164,
                tuple(computed.codes(row)),
                amount if isinstance(amount, Decimal) else None,
                written if isinstance(written, str) else "",
            )
        )
    return column.name if column else "", found


def as_said(stood: Stood, text: str) -> Stood:
    """A row of an earlier round with its amount only where the text that was sent said just that one.

    It was worked out anew, and may be another by now; and 5,00 $ is not said by a text with 15,00 $ in it.
    """
    said = stood.shown and re.search(rf"(?<!\d)(?<!\d[.,'\s]){re.escape(stood.shown)}(?!\d)", text)
    return stood if said else replace(stood, amount=None, shown="")


def _money_column(computed: Computed) -> int | None:
    """The money column that the most texts have in them; the first of several alike."""
    using: Counter[int] = Counter()
    for position in computed.view.used(Role.MONEY):
        using[position] = 0
    for wording in computed.view.wordings:
        if wording is not None:
            using.update(position for position in using if position in wording.used)
    return max(using, key=lambda position: using[position], default=None)
