"""Commands that mend a finding at one press, as the clerk saw it."""

from typing_extensions import override

from gentle_ledger.app.commands.rows import LEFT_OUT
from gentle_ledger.app.draft import Draft, Plan
from gentle_ledger.app.edit import Command, LongCommand
from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.store.errors import NotNow


class SeenCommand(Command):
    """Does something about what was shown of a round at one version, and nothing once it is another."""

    version: int

    def refuse_unseen(self, draft: Draft) -> None:
        """Raises NotNow where the round is not as it was shown any more."""
        if draft.found.version != self.version:
            raise NotNow(
                "The round was changed meanwhile, so nothing was done.", "Look at it once more and press again."
            )


class LeaveRowsOut(SeenCommand, LongCommand):
    """Leaves some rows (from 1) out together, so that they can be taken back together."""

    rows: list[RowNumber]

    @override
    def plan(self, draft: Plan) -> Reason | None:
        self.refuse_unseen(draft)
        changed = draft.leave_out(self.rows, out=True)
        return draft.said(LEFT_OUT(row=changed[0], rows=len(changed))) if changed else None
