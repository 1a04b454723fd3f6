"""Commands that mend a finding at one press, as the clerk saw it."""

from typing_extensions import override

from gentle_ledger.app.commands.rows import LEFT_OUT
from gentle_ledger.app.draft import Draft, Plan
from gentle_ledger.app.edit import Command, LongCommand
from gentle_ledger.app.settings import changed
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.cells.words import listed
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.model import CombineSettings
from gentle_ledger.store.errors import NotNow

ONE_LINK = reason_kind("one link a row", "one link for each combined row in {columns}")


class SeenCommand(Command):
    """Does something about what was shown of a round at one version, and nothing once it is another."""

    version: int

    def refuse_unseen(self, draft: Draft) -> None:
        """Raises NotNow where the round is not as it was shown any more."""
        if draft.found.version != self.version:
            raise NotNow(
                "The round was changed meanwhile, so nothing was done.", "Look at it once more and press again."
            )


class OneLinkARow(SeenCommand):
    """Has the links of combined rows one after another, in place of one link with a list in it."""

    @override
    def apply(self, draft: Draft) -> Reason | None:
        self.refuse_unseen(draft)
        composer, combine = draft.opened.composer, draft.recipe.combine
        names = [
            composer.columns.names[position]
            for position in composer.used
            if composer.roles[position] is Role.LINK and composer.column(position).lists - {position}
        ]
        if combine is None or not names:
            raise NotNow(
                "The address stands in the wording, and not in a column of its own.",
                "Make a link column of it with Compute, and put its field there.",
            )
        columns = {**combine.columns, **dict.fromkeys(names, Aggregate.LISTED)}
        draft.set_recipe(changed(draft.recipe, {"combine": CombineSettings(by=combine.by, columns=columns)}))
        return draft.said(ONE_LINK(columns=listed(names, 3)))


class LeaveRowsOut(SeenCommand, LongCommand):
    """Leaves some rows (from 1) out together, so that they can be taken back together."""

    rows: list[RowNumber]

    @override
    def plan(self, draft: Plan) -> Reason | None:
        self.refuse_unseen(draft)
        changed = draft.leave_out(self.rows, out=True)
        return draft.said(LEFT_OUT(row=changed[0], rows=len(changed))) if changed else None
