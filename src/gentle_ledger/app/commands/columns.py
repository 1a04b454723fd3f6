"""Commands about columns: their roles and formats, those that are computed, and those that an earlier sheet had."""

from collections.abc import Collection
from itertools import count

from pydantic import Field
from typing_extensions import override

from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.settings import NotUsable, column_settings
from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.sent_before import answered
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.recipe.part import MOST_CHARACTERS
from gentle_ledger.core.wording.renaming import renamed, without
from gentle_ledger.core.wording.uses import doubled, unmatched

_SAID = {"fallback": "text when blank"}
"""Settings of a column that the clerk knows by another name."""

SET = reason_kind("column set", "the {settings} of {column}")
COMPUTED = reason_kind("column computed", "the computed column {column}")
REMOVED = reason_kind("column removed", "removing the column {column}")
SENT_ANSWERED = reason_kind(
    "sent column answered", lambda column, out: f"{'leaving out' if out else 'keeping'} what {column} says was sent"
)
MATCHED = reason_kind("column matched", "taking {column} for {name}")
FORGOTTEN = reason_kind("column forgotten", "doing without {column}")
DOUBLED = reason_kind(
    "doubled column answered",
    lambda column, computed: f"keeping the computed {column}" if computed else f"keeping the {column} of the sheet",
)


class SetColumn(Command):
    """Sets a column's role, its reading, its format or its fallback; what is not named stays."""

    name: str
    role: Role | None = None
    reading: Order | None = None
    format: str | None = Field(default=None, max_length=100)
    fallback: str | None = Field(default=None, max_length=1_000)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        name = own_name(draft.opened, self.name)
        changes = {key: getattr(self, key) for key in type(self).model_fields if key in self.model_fields_set}
        changes.pop("name")
        recipe = draft.recipe.with_column(name, column_settings(draft.recipe.setting(name), changes))
        draft.set_recipe(_only_mobile(recipe, name) if changes.get("role") is Role.MOBILE else recipe)
        return draft.said(SET(column=name, settings=" and ".join(_SAID.get(name, name) for name in changes)))


def own_name(opened: OpenRound, named: str) -> str:
    """A column's own name; raises NotUsable when there is none of that name."""
    columns = opened.composer.columns
    position = columns.position(named)
    if position is None:
        raise NotUsable(f'There is no column "{named}".', column=named)
    return columns.names[position]


def _only_mobile(recipe: Recipe, name: str) -> Recipe:
    """The texts of a round go to one column's numbers: the role moves."""
    for other, settings in list(recipe.columns.items()):
        if settings.role is Role.MOBILE and column_key(other) != column_key(name):
            recipe = recipe.with_column(other, settings.model_copy(update={"role": None}))
    return recipe


class Formula(Command):
    """What a computed column is made from, and how it is written."""

    was: str | None = Field(default=None, max_length=200)
    formula: str | None = Field(default=None, max_length=MOST_CHARACTERS)
    template: str | None = Field(default=None, max_length=MOST_CHARACTERS)
    format: str | None = Field(default=None, max_length=100)
    fallback: str | None = Field(default=None, max_length=1_000)

    def settings(self) -> ColumnSettings:
        """The same as the recipe has it. Raises NotUsable."""
        keys = ("formula", "template", "format", "fallback")
        return column_settings(ColumnSettings(), {key: getattr(self, key) for key in keys})


class PutComputed(Formula):
    """Puts a computed column in: a new one, or in the place of the one that `was` called so."""

    name: str = Field(max_length=200)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        recipe, name = self._recipe(draft.opened)
        found = evaluate(draft.opened.readings, recipe, draft.opened.kept.left_out)
        position = found.columns.position(name)
        problem = None if position is None else found.evaluation.problems.get(position)
        if problem:
            raise NotUsable(problem.what, problem.remedy, column=name)
        draft.set_recipe(recipe)
        return draft.said(COMPUTED(column=name))

    def _recipe(self, opened: OpenRound) -> tuple[Recipe, str]:
        """The recipe with the column in it, and its name; a new name is carried into all that uses it."""
        name, recipe = " ".join(self.name.split()), opened.recipe
        if not name:
            raise NotUsable("The column has no name.", "Give it one, to use it in the wording.")
        if "{" in name or "}" in name:
            raise NotUsable("Curly brackets mark a field in the wording.", "Choose a name without them.", column=name)
        taken = {column_key(other) for other in opened.composer.columns.names}
        if self.was is None or column_key(self.was) != column_key(name):
            if column_key(name) in taken:
                raise NotUsable(f'There is a column "{name}" already.', "Choose another name.", column=name)
            if self.was is not None:
                recipe = renamed(recipe, self.was, name)
        return recipe.with_column(name, self.settings()), name


class RemoveComputed(Command):
    """Takes a computed column out. What uses it then says that the column is missing."""

    name: str

    @override
    def apply(self, draft: Draft) -> Reason | None:
        if not draft.recipe.setting(self.name).computed:
            raise NotUsable(f'There is no computed column "{self.name}".', column=self.name)
        draft.set_recipe(draft.recipe.with_column(self.name, ColumnSettings()))
        return draft.said(REMOVED(column=self.name))


class AnswerSent(Command):
    """Says whether the rows that a column says were sent are left out; without, the column is something else."""

    name: str = Field(max_length=200)
    leave_out: bool

    @override
    def apply(self, draft: Draft) -> Reason | None:
        columns = {column_key(marks.column): marks.column for marks in draft.opened.readings.sent_marks()}
        column = columns.get(column_key(self.name))
        if column is None:
            raise NotUsable(f'The column "{self.name}" says of no row that it was sent.', column=self.name)
        draft.set_recipe(answered(draft.recipe, column, self.leave_out))
        return draft.said(SENT_ANSWERED(column=column, out=self.leave_out))


class MatchColumn(Command):
    """Says which column of this sheet is the one that the set-up calls `name`."""

    name: str
    column: str

    @override
    def apply(self, draft: Draft) -> Reason | None:
        column = own_name(draft.opened, self.column)
        draft.set_recipe(renamed(draft.recipe, self.name, column))
        return draft.said(MATCHED(column=column, name=self.name))


class ForgetColumn(Command):
    """Takes out what combines or leaves rows out by a column that this sheet does not have, and its settings."""

    name: str

    @override
    def apply(self, draft: Draft) -> Reason | None:
        if column_key(self.name) not in map(column_key, unmatched(draft.recipe, draft.opened.composer.columns)):
            raise NotUsable(f'The set-up lacks no column "{self.name}".', column=self.name)
        draft.set_recipe(without(draft.recipe, self.name))
        return draft.said(FORGOTTEN(column=self.name))


class AnswerDoubled(Command):
    """Says which of two columns called `name` counts: the computed one, which gets another name, or the sheet's."""

    name: str
    computed: bool

    @override
    def apply(self, draft: Draft) -> Reason | None:
        columns, recipe = draft.opened.composer.columns, draft.recipe
        name = next((name for name in doubled(recipe, columns) if column_key(name) == column_key(self.name)), None)
        if name is None:
            raise NotUsable(f'There are no two columns "{self.name}".', column=self.name)
        if self.computed:
            taken = {column_key(other) for other in columns.names}
            draft.set_recipe(renamed(recipe, name, _free_name(f"{name} (computed)", taken)))
        else:
            draft.set_recipe(recipe.with_column(name, ColumnSettings()))
        return draft.said(DOUBLED(column=name, computed=self.computed))


def _free_name(name: str, taken: Collection[str]) -> str:
    others = (f"{name} {n}" for n in count(2))
    return name if column_key(name) not in taken else next(other for other in others if column_key(other) not in taken)
