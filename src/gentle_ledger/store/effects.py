"""What a change of a round did, one thing at a time, so that it can be taken back and done again."""

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol, TypeVar, cast

from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.store.cells import cells_from_json, cells_to_json
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import recipe_of, refuse_unusable, set_recipe
from gentle_ledger.store.rows import put_blank_rows, remove_last_rows, set_flag, set_release, swap_sheets, write_cells
from gentle_ledger.store.sheets import PIECE


@dataclass
class Touched:
    """What a change touched, so that only what comes from it is read anew.

    Attributes:
        cells: rows and columns, from 0.
        rows: whether there are more rows at the end, or fewer.
        whole: whether another sheet stands in its place.
        flags: whether rows were left out or released, or taken back.
        let_go: the rows (from 0) that were released, or are held again.
    """

    cells: set[tuple[int, int]] = field(default_factory=set)
    rows: bool = False
    whole: bool = False
    flags: bool = False
    let_go: set[int] = field(default_factory=set)

    @property
    def sheet(self) -> bool:
        """Whether the sheet is another one now."""
        return self.rows or self.whole or bool(self.cells)


class Effect(Protocol):
    """One thing that a change did."""

    @property
    def rows_written(self) -> int:
        """How many rows of the sheet it writes; 0 for what concerns the round alone."""
        ...

    def pieces(self) -> Sequence["Effect"]:
        """The same in pieces of which each is done in a short while, in their order."""
        ...

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """Does it once more, or takes it back."""
        ...

    def as_json(self) -> dict[str, Any]:
        """As it is kept; its `kind` tells which effect it is."""
        ...


class _OfRound:
    """What concerns the round alone, and none of its rows."""

    __slots__ = ()

    @property
    def rows_written(self) -> int:
        """See `Effect`."""
        return 0

    def pieces(self) -> Sequence[Effect]:
        """See `Effect`."""
        return (cast("Effect", self),)


@dataclass(frozen=True, slots=True)
class RecipeEffect(_OfRound):
    """Parts of the set-up that became others; each by its name in the recipe."""

    before: Mapping[str, Any]
    after: Mapping[str, Any]

    @classmethod
    def between(cls, before: Recipe, after: Recipe) -> "RecipeEffect":
        """What differs between two recipes."""
        was, now = before.model_dump(mode="json"), after.model_dump(mode="json")
        names = [name for name in now if was.get(name) != now[name]]
        return cls({name: was.get(name) for name in names}, {name: now[name] for name in names})

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        refuse_unusable(found)
        recipe = recipe_of(found).model_dump(mode="json")
        set_recipe(found, Recipe.model_validate({**recipe, **(self.before if back else self.after)}))

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "recipe", "before": dict(self.before), "after": dict(self.after)}


@dataclass(frozen=True, slots=True)
class KeptRecipeEffect(_OfRound):
    """A kept set-up of which part could not be used, and the one that stands in its place, each as it is kept."""

    before: str
    after: str

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        found.recipe = self.before if back else self.after

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "kept recipe", "before": self.before, "after": self.after}


@dataclass(frozen=True, slots=True)
class CellsEffect:
    """Cells that got another content: row (from 1), column (from 0), what stood there, what stands there now."""

    cells: Sequence[tuple[RowNumber, int, Cell, Cell]]

    @property
    def rows_written(self) -> int:
        """See `Effect`."""
        return len({number for number, *_ in self.cells})

    def pieces(self) -> Sequence[Effect]:
        """See `Effect`."""
        return [CellsEffect(some) for some in _in_pieces(self.cells)]

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        write_cells(session, found, ((number, at, was if back else now) for number, at, was, now in self.cells))
        touched.cells.update((row_of_number(number), at) for number, at, _, _ in self.cells)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "cells", "cells": [[n, c, cells_to_json([was, now])] for n, c, was, now in self.cells]}


@dataclass(frozen=True, slots=True)
class RowEffect:
    """Blank rows that were added at the end, `number` the first of them."""

    number: RowNumber
    rows: int = 1

    @property
    def rows_written(self) -> int:
        """See `Effect`."""
        return self.rows

    def pieces(self) -> Sequence[Effect]:
        """See `Effect`."""
        starts = range(0, self.rows, PIECE)
        return [
            RowEffect(number_of_row(row_of_number(self.number) + start), min(PIECE, self.rows - start))
            for start in starts
        ]

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        touched.rows = True
        if back:
            remove_last_rows(session, found, self.number)
        else:
            put_blank_rows(session, found, self.number, self.rows)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "row", "number": self.number, "rows": self.rows}


@dataclass(frozen=True, slots=True)
class FlagEffect:
    """Rows (from 1) that were left out or released, or taken back; `name` is the flag's, `after` what it became."""

    name: str
    rows: Sequence[RowNumber]
    after: bool

    @property
    def rows_written(self) -> int:
        """See `Effect`."""
        return len(self.rows)

    def pieces(self) -> Sequence[Effect]:
        """See `Effect`."""
        return [FlagEffect(self.name, some, self.after) for some in _in_pieces(self.rows)]

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        touched.flags = True
        for some in _in_pieces(self.rows):
            set_flag(session, found, some, self.name, self.after is not back)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "flag", "name": self.name, "rows": list(self.rows), "after": self.after}


@dataclass(frozen=True, slots=True)
class ReleaseEffect:
    """A row (from 1) that was released, or held again: its release before and after, None for none."""

    number: RowNumber
    before: str | None
    after: str | None

    @property
    def rows_written(self) -> int:
        """See `Effect`."""
        return 1

    def pieces(self) -> Sequence[Effect]:
        """See `Effect`."""
        return (self,)

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        touched.flags = True
        touched.let_go.add(row_of_number(self.number))
        set_release(session, found, self.number, self.before if back else self.after)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "release", "number": self.number, "before": self.before, "after": self.after}


@dataclass(frozen=True, slots=True)
class SheetEffect(_OfRound):
    """A newer version of the sheet in the place of an earlier one; the rows of the other one are kept beside."""

    kept: int

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        touched.whole = True
        swap_sheets(session, found, self.kept)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "sheet", "kept": self.kept}


_Item = TypeVar("_Item")


def _in_pieces(items: Sequence[_Item]) -> Iterator[Sequence[_Item]]:
    for start in range(0, len(items), PIECE):
        yield items[start : start + PIECE]


def effect_of(data: Mapping[str, Any]) -> Effect:
    """An effect as it was kept."""
    kind = data["kind"]
    if kind == "recipe":
        return RecipeEffect(data["before"], data["after"])
    if kind == "kept recipe":
        return KeptRecipeEffect(data["before"], data["after"])
    if kind == "cells":
        return CellsEffect([(number, column, *cells_from_json(pair)) for number, column, pair in data["cells"]])
    if kind == "row":
        return RowEffect(data["number"], data.get("rows", 1))
    if kind == "release":
        return ReleaseEffect(data["number"], data["before"], data["after"])
    return FlagEffect(data["name"], data["rows"], data["after"]) if kind == "flag" else SheetEffect(data["kept"])


def as_kept(effects: Sequence[Effect]) -> str:
    """The effects of a change as text."""
    return json.dumps([effect.as_json() for effect in effects], ensure_ascii=False)
