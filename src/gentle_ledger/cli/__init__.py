"""The commands: serve, sender, demo, carrier, compute, plan, openapi."""

from gentle_ledger.cli.main import main

__all__ = ["main"]
