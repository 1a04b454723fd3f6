"""The commands: serve, sender, demo, carrier, address, status, compute, plan, backup, restore, openapi."""

from gentle_ledger.cli.main import main

__all__ = ["main"]
