"""Rounding to decimals, with room for any number the formulas can make."""

from decimal import Decimal

from gentle_ledger.core.formulas.values import WORK, Code, Wrong, settled

MOST_DECIMALS = 30

_ROOM = WORK.copy()
_ROOM.prec = 200


def rounded(number: Decimal, decimals: Decimal, way: str) -> Decimal:
    """A number at so many decimals, or tens and hundreds when `decimals` is negative; `way` is one of `decimal`'s."""
    places = int(decimals)
    if abs(places) > MOST_DECIMALS:
        raise Wrong(Code.NUMBER, f"{places} decimals are too many; at most {MOST_DECIMALS} can be kept")
    exact = settled(number)
    exponent = exact.as_tuple().exponent
    if isinstance(exponent, int) and exponent >= -places:
        return exact
    return exact.quantize(Decimal(1).scaleb(-places), rounding=way, context=_ROOM)
