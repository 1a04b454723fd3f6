"""Commands about the set-up besides its columns: the wording, the pace, places and money, tables, rules."""

from datetime import date
from typing import ClassVar

from pydantic import Field
from sqlalchemy.orm import Session
from typing_extensions import override

from gentle_ledger.app.commands.findings import SeenCommand
from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command, Gate
from gentle_ledger.app.settings import changed
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.words import listed
from gentle_ledger.core.checks.registry import refuse_levels
from gentle_ledger.core.columns.evaluated import NamesOfRows, key_of_row
from gentle_ledger.core.recipe.model import BelongTogether, CheckLevel, CombineSettings, LeaveOutRule, Lookup
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.effects import KeptRecipeEffect
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import not_started, preparing_round, recipe_of, round_of, set_recipe, unusable_of

_NAMES = {
    "title": "the title",
    "as_of": "the date of the round",
    "region": "the country",
    "currency": "the currency",
    "locale": "the language",
    "pace": "the pace",
    "plain_signs": "how signs are written",
    "leave_out_hidden": "what becomes of hidden rows",
    "countries": "which countries the numbers may be of",
    "repeat_days": "how far back repeats are looked for",
    "lately_days": "how far back any text to the same number is looked for",
    "checks": "what is checked",
    "sender": "who writes",
    "leave_out": "the rules that leave rows out",
    "combine": "how rows are combined",
    "belong_together": "which rows belong together",
    "lookups": "the tables",
}
"""What each setting is called in the journal."""

SET_UP = reason_kind("set up", lambda settings: listed([_NAMES.get(name, name) for name in settings.split()], 3))
TOGETHER = reason_kind("rows belong together", "saying that rows {rows} belong together")
DONE_WITHOUT = reason_kind("set-up salvaged", "doing without {what}, which could not be used")


def _any_stage(session: Session, round_id: int) -> Round:
    """Title and pace may change at any time."""
    found = round_of(session, round_id)
    return preparing_round(session, round_id) if found.stage == Stage.PREPARING else found


class SetPace(Command):
    """Title and pace, at any time."""

    gate: ClassVar[Gate] = staticmethod(_any_stage)

    title: str | None = None
    pace: PaceSettings | None = None

    @override
    def apply(self, draft: Draft) -> Reason | None:
        if self.pace and draft.found.stage != Stage.PREPARING:
            _refuse_other_turns(draft.recipe.pace, self.pace)
        changes = {name: getattr(self, name) for name in type(self).model_fields if name in self.model_fields_set}
        draft.set_recipe(changed(draft.recipe, changes))
        return draft.said(SET_UP(settings=" ".join(changes)))


def _refuse_other_turns(before: PaceSettings, after: PaceSettings) -> None:
    """The order of the texts and their own moments were written down when sending began. Raises NotNow."""
    if (before.at, before.zone, before.order) != (after.at, after.zone, after.order):
        raise NotNow(
            "The order of the texts and their own moments stand since sending began.",
            "How fast they leave, and at which hours, can still be changed.",
        )


class SetUp(SetPace):
    """The same and all other settings, before sending starts; what is not named stays."""

    gate: ClassVar[Gate] = staticmethod(preparing_round)

    as_of: date | None = None
    region: str | None = None
    currency: str | None = None
    locale: str | None = None
    plain_signs: bool | None = None
    leave_out_hidden: bool | None = None
    countries: list[str] | None = None
    repeat_days: int | None = None
    lately_days: int | None = None
    checks: dict[str, CheckLevel] | None = None
    sender: str | None = Field(default=None, max_length=100)
    leave_out: list[LeaveOutRule] | None = None
    combine: CombineSettings | None = None
    belong_together: list[BelongTogether] | None = None
    lookups: dict[str, Lookup] | None = None

    @override
    def apply(self, draft: Draft) -> Reason | None:
        refuse_levels(self.checks or {})
        return super().apply(draft)


class SayTogether(SeenCommand):
    """Says that rows belong together though their names are of different people.

    Attributes:
        row: one of them, from 1.
        version: of the round in which they were shown: by now others may stand beside that row.
    """

    gate: ClassVar[Gate] = staticmethod(preparing_round)

    row: RowNumber

    @override
    def apply(self, draft: Draft) -> Reason | None:
        self.refuse_unseen(draft)
        composer, recipe = draft.opened.composer, draft.recipe
        row = row_of_number(self.row)
        rows = next((rows for rows in composer.groups.apart if row in rows), None)
        if rows is None or recipe.combine is None:
            raise NotNow(f"Row {self.row} waits for no answer any more.", "Look at the rows once more.")
        by = composer.columns.position(recipe.combine.by) or 0
        key = key_of_row(composer.evaluation, composer.phones, by, row)
        said = BelongTogether(key=key, names=tuple(NamesOfRows(composer.evaluation).of(rows)[:1_000]))
        draft.set_recipe(changed(recipe, {"belong_together": (*recipe.belong_together, said)}))
        return TOGETHER(rows=listed([str(number_of_row(each)) for each in rows], 5))


class MendRecipe(Command):
    """Goes on without what of the kept set-up cannot be used."""

    gate: ClassVar[Gate] = staticmethod(not_started)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        found = draft.found
        lost = unusable_of(found)
        if not lost:
            return None
        before = found.recipe
        set_recipe(found, recipe_of(found))
        draft.effects.append(KeptRecipeEffect(before, found.recipe))
        return DONE_WITHOUT(what=listed(lost))
