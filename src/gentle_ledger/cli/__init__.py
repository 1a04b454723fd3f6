"""The commands: serve, sender, demo, carrier, compute, openapi."""

from gentle_ledger.cli.main import main

__all__ = ["main"]
