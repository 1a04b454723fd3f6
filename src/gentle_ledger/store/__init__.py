"""What is kept: rounds, rows, texts and the ledger, in one SQLite file."""
