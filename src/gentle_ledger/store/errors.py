"""What the store refuses."""

from gentle_ledger.core.errors import LedgerError


class NotThere(LedgerError):
    """What was asked for does not exist."""

    kind = "not there"
    status = 404


class NotNow(LedgerError):
    """The round's stage does not allow this."""

    kind = "not now"
    status = 409
