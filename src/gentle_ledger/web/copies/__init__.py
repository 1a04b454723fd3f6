"""Copies of the ledger over HTTP."""
