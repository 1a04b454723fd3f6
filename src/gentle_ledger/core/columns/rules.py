"""Rules that leave rows out, ready to be asked about a row."""

from collections.abc import Callable
from dataclasses import dataclass

from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.formulas.registry import Evaluate
from gentle_ledger.core.formulas.values import ERRORS, Code, Wrong, as_truth, wrong_of
from gentle_ledger.core.recipe.model import LeaveOutRule


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule bound to the columns; `problem` says why it cannot be asked."""

    reason: str
    applies: Evaluate | None
    problem: FormulaError | None = None

    def leaves_out(self, place: int) -> bool:
        """Whether the rule leaves the row at a place out. Raises Wrong when that cannot be said."""
        if self.applies is None:
            raise Wrong(Code.VALUE, self.problem.what.rstrip(".") if self.problem else "it cannot be read")
        try:
            return as_truth(self.applies(place))
        except ERRORS as fault:
            raise wrong_of(fault) from None


def bound_rule(rule: LeaveOutRule, bind: Callable[[str], Evaluate]) -> Rule:
    """A rule of the recipe, its formula bound by `bind`; one that cannot be used keeps its problem."""
    try:
        return Rule(rule.reason, bind(rule.when))
    except FormulaError as fault:
        return Rule(rule.reason, None, fault)
