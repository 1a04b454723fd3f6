"""The batches that a round's phone numbers fall into."""

from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.columns.tidy import Batch, batches_of


def batches_in(opened: OpenRound) -> list[Batch]:
    """The batches of the numbers in the sheet, what is wrong first; none where the numbers are computed."""
    composer = opened.composer
    position = composer.mobile
    if position is None or position >= composer.columns.first_computed:
        return []
    cells = opened.readings.sheet.values(position)
    numbers = [composer.phones.number(position, row) for row in range(len(cells))]
    rows = [row for row in range(len(cells)) if row not in opened.kept.left_out]
    return batches_of(cells, numbers, rows, opened.recipe.region)
