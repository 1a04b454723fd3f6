"""The rules that look at every row before sending: one registry, one function a check."""

from gentle_ledger.core.checks.model import Check, Finding, RoundView
from gentle_ledger.core.checks.registry import CHECKS, check_of, run_checks

__all__ = ["CHECKS", "Check", "Finding", "RoundView", "check_of", "run_checks"]
