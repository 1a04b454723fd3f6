"""What the rows of a round are searched for: the cells as they stand in the sheet, and as they are read and shown."""

from collections.abc import Sequence
from decimal import Decimal

from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.wording.composer import Composer


def haystacks(composer: Composer) -> Sequence[str]:
    """All cells of each row as one text in one case: a person, a number in any writing, an amount with or without sign.

    Computed columns are among them. A number is found by its digits in a row, an amount by its plain figure.
    """
    rows = range(len(composer.readings.sheet.rows))
    found = [[as_written(cell) for cell in cells] for cells in composer.readings.sheet.rows]
    for at, role in enumerate(composer.columns.roles):
        computed = at >= composer.columns.first_computed
        if at == composer.mobile:
            for row, number in enumerate(composer.phones.all(at)):
                found[row].append(number.e164)
        elif computed or role.counts or role is Role.DATE:
            column = composer.column(at)
            for row in rows:
                shown, value = column.shown[row], column.values[row]
                if isinstance(shown, str):
                    found[row].append(shown)
                if isinstance(value, Decimal):
                    found[row].append(as_written(value))
    return [" ".join(cells).casefold() for cells in found]
