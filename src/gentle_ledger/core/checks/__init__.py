"""What is looked at before anything is sent: one check a module in `each`, one registry."""

from gentle_ledger.core.checks.model import Check, Finding, Level
from gentle_ledger.core.checks.registry import CHECKS, check_of, levels_in, run_checks
from gentle_ledger.core.checks.release import Release
from gentle_ledger.core.checks.view import RoundView

__all__ = ["CHECKS", "Check", "Finding", "Level", "Release", "RoundView", "check_of", "levels_in", "run_checks"]
