"""Commands about the wordings of a round: what they say, whose they are, and stretches for some rows only."""

from collections.abc import Sequence
from typing import ClassVar

from pydantic import Field
from typing_extensions import override

from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command
from gentle_ledger.app.parts import Behind
from gentle_ledger.app.settings import NotUsable, changed
from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.formulas.parse import FormulaError, parse_formula
from gentle_ledger.core.recipe.model import ConditionalWording, Recipe
from gentle_ledger.core.recipe.part import MOST_CHARACTERS
from gentle_ledger.core.wording.stretch import with_stretch

WORDING = reason_kind("wording written", lambda name=None: f"the wording “{name}”" if name else "the wording")
ADDED = reason_kind("wording added", "adding the wording “{name}”")
CHANGED = reason_kind("wording changed", "changing whose the wording “{name}” is")
REMOVED = reason_kind("wording removed", "removing the wording “{name}”")
ORDERED = reason_kind("wordings ordered", "trying the wordings in another order")
STRETCH = reason_kind("stretch made", "making words of the wording the column {column}")


def conditional(recipe: Recipe, name: str) -> ConditionalWording:
    """The wording of that name, in any case. Raises NotUsable when there is none."""
    found = next((each for each in recipe.wordings if column_key(each.name) == column_key(name)), None)
    if found is None:
        raise NotUsable(f"There is no wording called “{name}” any more.")
    return found


def _with(recipe: Recipe, wordings: Sequence[ConditionalWording]) -> Recipe:
    return changed(recipe, {"wordings": list(wordings)})


class WriteWording(Command):
    """Keeps what a wording says. `was` is what it was written upon; None writes over any.

    `of` is the wording's name; None is the one for all the rest.
    """

    merges: ClassVar[bool] = True

    wording: str = Field(max_length=MOST_CHARACTERS)
    was: str | None = Field(default=None, max_length=MOST_CHARACTERS)
    of: str | None = None

    @override
    def apply(self, draft: Draft) -> Reason | None:
        recipe = draft.recipe
        found = None if self.of is None else conditional(recipe, self.of)
        stands = found.text if found else recipe.wording
        if self.was is not None and stands not in {self.was, self.wording}:
            raise Behind("Another window has changed the wording meanwhile.", theirs=stands)
        if found is None:
            draft.set_recipe(changed(recipe, {"wording": self.wording}))
            return draft.said(WORDING())
        written = found.model_copy(update={"text": self.wording})
        draft.set_recipe(_with(recipe, [written if each is found else each for each in recipe.wordings]))
        return draft.said(WORDING(name=found.name))


class PutWording(Command):
    """Puts a wording in, behind those there are, or gives the one that `was` called so another name or condition."""

    name: str = Field(max_length=100)
    when: str = Field(max_length=MOST_CHARACTERS)
    was: str | None = None
    text: str = Field(default="", max_length=MOST_CHARACTERS)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        recipe = draft.recipe
        try:
            parse_formula(self.when)
        except FormulaError as fault:
            raise NotUsable(f"The condition cannot be used: {fault.what}", fault.remedy) from fault
        if self.was is None:
            made = {"name": self.name, "when": self.when, "text": self.text}
            draft.set_recipe(changed(recipe, {"wordings": [*recipe.wordings, made]}))
            return draft.said(ADDED(name=self.name))
        found = conditional(recipe, self.was)
        put = {"name": self.name, "when": self.when, "text": found.text}
        draft.set_recipe(changed(recipe, {"wordings": [put if each is found else each for each in recipe.wordings]}))
        return draft.said(CHANGED(name=self.name))


class RemoveWording(Command):
    """Takes a wording out: its rows read the next one that is theirs."""

    name: str

    @override
    def apply(self, draft: Draft) -> Reason | None:
        found = conditional(draft.recipe, self.name)
        draft.set_recipe(_with(draft.recipe, [each for each in draft.recipe.wordings if each is not found]))
        return draft.said(REMOVED(name=found.name))


class OrderWordings(Command):
    """Has the wordings tried in another order."""

    names: list[str]

    @override
    def apply(self, draft: Draft) -> Reason | None:
        ordered = [conditional(draft.recipe, name) for name in self.names]
        if len(ordered) != len(draft.recipe.wordings) or len({each.name for each in ordered}) != len(ordered):
            raise NotUsable("The wordings were changed meanwhile.", "Look at them once more.")
        draft.set_recipe(_with(draft.recipe, ordered))
        return draft.said(ORDERED())


class MakeStretch(Command):
    """Makes a stretch of a wording one for some rows only; see `core.wording.stretch`.

    `before` and `stretch` are what stands in front of the marked words and the words themselves, as they were seen;
    where something else stands by now, nothing is done.
    """

    of: str | None = None
    before: str = Field(max_length=MOST_CHARACTERS)
    stretch: str = Field(min_length=1, max_length=MOST_CHARACTERS)
    when: str = Field(max_length=MOST_CHARACTERS)
    name: str = Field(default="", max_length=200)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        recipe, start, end = draft.recipe, len(self.before), len(self.before) + len(self.stretch)
        text = recipe.wording if self.of is None else conditional(recipe, self.of).text
        if not text.startswith(self.before + self.stretch):
            raise NotUsable("Other words stand there by now.", "Mark them once more.")
        if "{" in self.name or "}" in self.name:
            raise NotUsable("Curly brackets mark a field in the wording.", "Choose a name without them.")
        columns = draft.opened.composer.columns
        made, column = with_stretch(recipe, columns, self.of, start, end, self.when, self.name)
        draft.set_recipe(made)
        return draft.said(STRETCH(column=column))
