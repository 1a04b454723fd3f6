"""How odd a row is: what is read first before anything is sent."""

import math
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

HELD = 100.0
"""What each finding that holds a row weighs: such a row comes before every one that is only odd. A figure of ours."""
FARTHEST = 10.0
"""Distances count up to this many; a figure of ours."""
ODD = 1.0
"""From how many bits on a row is odd: what is found in no more than half of the rows makes it so."""


def surprise(rows: int, of: int) -> float:
    """How unexpected something is that is found in some rows out of all, in bits.

    That is the self-information of an event, -log2 of its probability (C. E. Shannon, "A Mathematical Theory of
    Communication", 1948). One is added to all rows, so that a round of a single row can be odd as well; what is found
    in every row is then close to nothing.
    """
    return -math.log2(rows / (of + 1))


def surprises(found: Iterable[tuple[int, str]], of: int) -> dict[int, float]:
    """For each row what its findings come to together, in bits; a check counts once a row.

    Args:
        found: rows, each with the key of a check that found something in it.
        of: how many rows were looked at.
    """
    pairs = set(found)
    rows_of = Counter(check for _, check in pairs)
    bits = {check: surprise(rows, of) for check, rows in rows_of.items()}
    summed: dict[int, float] = {}
    for row, check in sorted(pairs):
        summed[row] = summed.get(row, 0.0) + max(0.0, bits[check])
    return summed


def oddness(holding: int, bits: float, distances: Sequence[float]) -> float:
    """How odd a row is; larger is odder, and 0 is the plain case.

    Args:
        holding: how many findings hold it.
        bits: what its other findings come to, see `surprises`.
        distances: how far its figures and its length are from the middle ones, as modified z-scores; they put rows in
            order that the findings leave alike, and together weigh less than one bit.
    """
    far = [min(abs(distance), FARTHEST) / FARTHEST for distance in distances]
    return round(HELD * holding + bits + (sum(far) / len(far) * 0.99 if far else 0.0), 3)


def oddest_first(oddness_of: Mapping[int, float]) -> list[int]:
    """The rows, the oddest first; of two that are alike the first in the sheet."""
    return sorted(oddness_of, key=lambda row: (-oddness_of[row], row))
