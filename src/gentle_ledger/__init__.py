"""Gentle Ledger: spreadsheet rows into individually computed text messages, sent one by one at a calm pace."""

__version__ = "0.9.0"
