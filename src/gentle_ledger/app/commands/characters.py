"""The command that puts plain characters in the place of special ones, wherever the texts have them from."""

from pydantic import Field
from typing_extensions import override

from gentle_ledger.app.draft import Draft
from gentle_ledger.app.edit import Command
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.cells.words import listed
from gentle_ledger.core.sms.plain import plain_for, replaced

REPLACED = reason_kind("characters replaced", lambda characters: f"writing plain characters for {characters}")

_KEPT = frozenset({Role.LINK, Role.MOBILE})
"""Roles of columns whose cells are addresses: another character would be another address."""


class ReplaceCharacters(Command):
    """Replaces special characters in the wordings and in the cells of the sheet that the texts are made from."""

    characters: str = Field(min_length=1, max_length=200)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        for character in self.characters:
            if plain_for(character) is None:
                raise NotUsable(f"Nothing plain can stand for “{character}”.")
        recipe = draft.recipe
        wordings = tuple(
            each.model_copy(update={"text": replaced(each.text, self.characters)}) for each in recipe.wordings
        )
        wording = replaced(recipe.wording, self.characters)
        draft.set_recipe(recipe.model_copy(update={"wording": wording, "wordings": wordings}))
        draft.mend(self._cells(draft))
        return draft.said(REPLACED(characters=listed([f"“{character}”" for character in self.characters], 6)))

    def _cells(self, draft: Draft) -> dict[tuple[RowNumber, int], str]:
        composer, sheet = draft.opened.composer, draft.opened.readings.sheet
        reads = frozenset[int]().union(*(composer.column(position).reads for position in composer.used))
        places = [at for at in sorted(reads) if composer.roles[at] not in _KEPT]
        found = {}
        for row, cells in enumerate(sheet.rows):
            for at in places:
                cell = cells[at]
                if isinstance(cell, str) and (now := replaced(cell, self.characters)) != cell:
                    found[number_of_row(row), at] = now
        return found
