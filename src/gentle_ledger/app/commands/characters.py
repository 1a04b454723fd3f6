"""Commands that write the same words otherwise, wherever the texts have them from: plain characters, closed spaces."""

from collections.abc import Callable, Iterable

from pydantic import Field
from typing_extensions import override

from gentle_ledger.app.commands.findings import SeenCommand
from gentle_ledger.app.draft import Draft, Plan
from gentle_ledger.app.edit import LongCommand
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.words import listed, spaces_closed
from gentle_ledger.core.sms.plain import plain_for, replaced

REPLACED = reason_kind("characters replaced", lambda characters: f"writing plain characters for {characters}")

_KEPT = frozenset({Role.LINK, Role.MOBILE})
"""Roles of columns whose cells are addresses: another character would be another address."""


CLOSED_UP = reason_kind("spaces closed up", "closing spaces up")


class ReplaceCharacters(LongCommand):
    """Replaces special characters in the wordings and in the cells of the sheet that the texts are made from."""

    characters: str = Field(min_length=1, max_length=200)

    @override
    def plan(self, draft: Plan) -> Reason | None:
        for character in self.characters:
            if plain_for(character) is None:
                raise NotUsable(f"Nothing plain can stand for “{character}”.")
        _rewrite_wordings(draft, self._written)
        _rewrite_cells(draft, self._written, range(draft.found.row_count))
        return draft.said(REPLACED(characters=listed([f"“{character}”" for character in self.characters], 6)))

    def _written(self, text: str) -> str:
        return replaced(text, self.characters)


class CloseUp(SeenCommand, LongCommand):
    """Takes doubled spaces, and those before a mark, out of the cells of some rows (from 1) and out of the wordings.

    Attributes:
        rows: the rows.
        wordings: whether the wordings are closed up as well: they are those of all rows.
    """

    rows: list[RowNumber]
    wordings: bool

    @override
    def plan(self, draft: Plan) -> Reason | None:
        self.refuse_unseen(draft)
        if self.wordings:
            _rewrite_wordings(draft, spaces_closed)
        _rewrite_cells(draft, spaces_closed, [row_of_number(row) for row in self.rows])
        if not draft.effects:
            raise NotUsable("Closing spaces up changes nothing here.", "See which word is missing.")
        return draft.said(CLOSED_UP())


def _rewrite_wordings(draft: Draft, written: Callable[[str], str]) -> None:
    recipe = draft.recipe
    wordings = tuple(each.model_copy(update={"text": written(each.text)}) for each in recipe.wordings)
    draft.set_recipe(recipe.model_copy(update={"wording": written(recipe.wording), "wordings": wordings}))


def _rewrite_cells(draft: Draft, written: Callable[[str], str], rows: Iterable[int]) -> None:
    """Writes the cells of some rows (from 0) anew that the texts are made from; addresses stay as they are."""
    composer, sheet = draft.opened.composer, draft.opened.readings.sheet
    reads = frozenset[int]().union(*(composer.column(position).reads for position in composer.used))
    places = [at for at in sorted(reads) if composer.roles[at] not in _KEPT]
    found: dict[tuple[RowNumber, int], str] = {}
    for row in rows:
        for at in places:
            cell = sheet.rows[row][at]
            if isinstance(cell, str) and (now := written(cell)) != cell:
                found[number_of_row(row), at] = now
    draft.mend(found)
