"""Rounding to decimals, with room for any number the formulas can make."""

from decimal import Decimal

from gentle_ledger.core.formulas.values import WORK, Code, Wrong, settled, whole

MOST_DECIMALS = 30

_SMALLEST = {places: Decimal(1).scaleb(-places) for places in range(-MOST_DECIMALS, MOST_DECIMALS + 1)}
_ROOM = WORK.copy()
_ROOM.prec = 200


def rounded(number: Decimal, decimals: Decimal, way: str) -> Decimal:
    """A number at so many decimals, or tens and hundreds when `decimals` is negative; `way` is one of `decimal`'s."""
    places = whole(decimals)
    if abs(places) > MOST_DECIMALS:
        raise Wrong(Code.NUMBER, f"{places} decimals are too many; at most {MOST_DECIMALS} can be kept")
    return settled(number).quantize(_SMALLEST[places], rounding=way, context=_ROOM)
