"""Numbers out of a workbook."""

from decimal import Decimal


def as_decimal(value: float) -> Decimal:
    """A workbook's number as the 15 significant digits a spreadsheet shows, never as a binary float."""
    return Decimal(int(value)) if value.is_integer() and abs(value) < 1e15 else Decimal(format(value, ".15g"))
