"""A held row that the clerk lets go, with a reason in words."""

from collections.abc import Collection
from dataclasses import dataclass

from gentle_ledger.core.checks.model import Finding

Held = tuple[str, str]
"""What held a row: the key of the check, and what it said of the row."""


@dataclass(frozen=True, slots=True)
class Release:
    """What a row was let go from, and why in the clerk's words.

    It holds for just what was said of the row then: a row of which something else is said later is held again.
    """

    held: Collection[Held]
    reason: str = ""

    def covers(self, finding: Finding) -> bool:
        """Whether the row was let go from this."""
        return (finding.check, finding.reason.sentence) in self.held or (finding.check, ANYTHING) in self.held


ANYTHING = ""
"""Stands for whatever a check may say of a row."""
