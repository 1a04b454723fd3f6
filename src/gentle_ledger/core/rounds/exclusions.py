"""Which rows are not sent and why: left out by hand, by a rule, hidden in the workbook, or sent before."""

from collections.abc import Collection, Sequence

from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.columns.sent_before import sent_before
from gentle_ledger.core.formulas.values import Wrong
from gentle_ledger.core.wording.composer import Composer

BY_HAND = reason_kind("left out by hand", "left out by hand")
BY_RULE = reason_kind("left out by rule", "{rule}")
HIDDEN = reason_kind("hidden in workbook", "hidden in the workbook")
SAYS_SENT = reason_kind("sheet says sent", "{column} says that it was sent")


class Exclusions:
    """The rows (from 0) of a round that are kept back before any check looks at them.

    Attributes:
        left_out: each with its reason; of several the first that applies.
        undecided: those for which a rule cannot be decided: the rule, and why.
        said_sent: those of which a column seems to say that they were sent: that column, and what it says.
    """

    def __init__(self, composer: Composer, by_hand: Collection[int]) -> None:
        self.left_out: dict[int, Reason] = {row: BY_HAND() for row in by_hand}
        self.undecided: dict[int, tuple[str, str]] = {}
        self.said_sent: dict[int, tuple[str, str]] = {}
        self._composer = composer
        self._ask_rules(range(len(composer.readings.sheet.rows)))
        for row in composer.readings.sheet.hidden if composer.recipe.leave_out_hidden else ():
            self.left_out.setdefault(row, HIDDEN())
        self._heed_sent_marks()

    def _ask_rules(self, rows: Sequence[int]) -> None:
        rules, groups = self._composer.evaluation.rules, self._composer.groups
        for row in rows if rules else ():
            place = groups.place(row)
            for rule in rules:
                try:
                    applies = rule.is_true(place)
                except Wrong as fault:
                    self.undecided.setdefault(row, (rule.name, fault.why))
                    continue
                if applies:
                    self.left_out.setdefault(row, BY_RULE(rule=rule.name))

    def _heed_sent_marks(self) -> None:
        composer = self._composer
        for row, marks, out in sent_before(composer.recipe, composer.readings.sent_marks(), composer.groups):
            if out:
                self.left_out.setdefault(row, SAYS_SENT(column=marks.column))
            else:
                cell = composer.readings.sheet.rows[row][composer.columns.position(marks.column) or 0]
                self.said_sent.setdefault(composer.groups.lead(row), (marks.column, as_written(cell)))
