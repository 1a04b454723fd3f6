"""What of the ledger as a whole has to be looked at, over HTTP."""
