"""Clearing away, in pieces, what was cut off and what nothing goes by any more."""

from gentle_ledger.store.database import Database
from gentle_ledger.store.freezing import clear_texts, rounds_to_clear
from gentle_ledger.store.sheets import clear_sheet, unused_sheets


def clear_away(database: Database) -> None:
    """Clears away the sheets that no round goes by, and the texts of rounds that were not started, or taken back."""
    with database.reading_bare() as ledger:
        sheets, rounds = unused_sheets(ledger), rounds_to_clear(ledger)
    for number in sheets:
        clear_sheet(database, number)
    for round_id in rounds:
        clear_texts(database, round_id)
