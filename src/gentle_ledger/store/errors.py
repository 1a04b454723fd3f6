"""What the store refuses."""

from pathlib import Path

from gentle_ledger.core.errors import LedgerError


class NotThere(LedgerError):
    """What was asked for does not exist."""

    kind = "not there"
    status = 404


class NotNow(LedgerError):
    """The round's stage does not allow this."""

    kind = "not now"
    status = 409


class CannotOpen(LedgerError):
    """The ledger's file cannot be opened."""

    kind = "cannot open"
    status = 500

    def __init__(self, path: Path, why: str) -> None:
        super().__init__(
            f'The ledger cannot be kept in "{path}": {why}.', "Choose another file with GENTLE_LEDGER_DATA."
        )
