"""The journal of a round: every change with what was before and after, so that it can be undone and done again."""

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Protocol

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.reasons import Reason, reason_of
from gentle_ledger.core.cells.rows import RowNumber, row_of_number
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.store.cells import cells_from_json, cells_to_json
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import Change, Round
from gentle_ledger.store.rounds import recipe_of, set_recipe
from gentle_ledger.store.rows import put_blank_row, remove_row, set_flag, swap_rows, write_cell

ONE_PAUSE = timedelta(seconds=2)
"""What is typed within this time of the last key is one change."""


@dataclass
class Touched:
    """What a change touched, so that only what comes from it is read anew.

    Attributes:
        cells: rows and columns, from 0.
        rows: whether there are other rows, or another sheet.
        flags: whether rows were left out or released, or taken back.
    """

    cells: set[tuple[int, int]] = field(default_factory=set)
    rows: bool = False
    flags: bool = False

    @property
    def sheet(self) -> bool:
        """Whether the sheet is another one now."""
        return self.rows or bool(self.cells)


class Effect(Protocol):
    """One thing that a change did."""

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """Does it once more, or takes it back."""
        ...

    def as_json(self) -> dict[str, Any]:
        """As it is kept; its `kind` tells which effect it is."""
        ...


@dataclass(frozen=True, slots=True)
class RecipeEffect:
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
        recipe = recipe_of(found).model_dump(mode="json")
        set_recipe(found, Recipe.model_validate({**recipe, **(self.before if back else self.after)}))

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "recipe", "before": dict(self.before), "after": dict(self.after)}


@dataclass(frozen=True, slots=True)
class CellsEffect:
    """Cells that got another content: row (from 1), column (from 0), what stood there, what stands there now."""

    cells: Sequence[tuple[RowNumber, int, Cell, Cell]]

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        for number, column, before, after in reversed(self.cells) if back else self.cells:
            write_cell(session, found, number, column, before if back else after)
            touched.cells.add((row_of_number(number), column))

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "cells", "cells": [[n, c, cells_to_json([was, now])] for n, c, was, now in self.cells]}


@dataclass(frozen=True, slots=True)
class RowEffect:
    """A blank row that was added at the end."""

    number: RowNumber

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        touched.rows = True
        if back:
            remove_row(session, found, self.number)
        else:
            put_blank_row(session, found, self.number)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "row", "number": self.number}


@dataclass(frozen=True, slots=True)
class FlagEffect:
    """Rows (from 1) that were left out or released, or taken back; `name` is the flag's, `after` what it became."""

    name: str
    rows: Sequence[RowNumber]
    after: bool

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        touched.flags = True
        for number in self.rows:
            set_flag(session, found, number, self.name, self.after is not back)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "flag", "name": self.name, "rows": list(self.rows), "after": self.after}


@dataclass(frozen=True, slots=True)
class SheetEffect:
    """A newer version of the sheet in the place of an earlier one; the rows of the other one are kept beside."""

    kept: int

    def apply(self, session: Session, found: Round, touched: Touched, *, back: bool) -> None:
        """See `Effect`."""
        touched.rows = True
        swap_rows(session, found, self.kept)

    def as_json(self) -> dict[str, Any]:
        """See `Effect`."""
        return {"kind": "sheet", "kept": self.kept}


def effect_of(data: Mapping[str, Any]) -> Effect:
    """An effect as it was kept."""
    kind = data["kind"]
    if kind == "recipe":
        return RecipeEffect(data["before"], data["after"])
    if kind == "cells":
        return CellsEffect([(number, column, *cells_from_json(pair)) for number, column, pair in data["cells"]])
    if kind == "row":
        return RowEffect(data["number"])
    return FlagEffect(data["name"], data["rows"], data["after"]) if kind == "flag" else SheetEffect(data["kept"])


@dataclass(frozen=True, slots=True)
class Entry:
    """One line of the journal."""

    id: int
    at: datetime
    by: str
    what: Reason
    effects: Sequence[Effect]
    undone_at: datetime | None
    undone_by: str | None


def write(
    session: Session,
    found: Round,
    what: Reason,
    effects: Sequence[Effect],
    at: datetime,
    by: str,
    *,
    typed: bool = False,
) -> int:
    """Enters a change that was just made, and gives its number. What was undone before can no longer be done again.

    Args:
        session: the transaction that makes the change.
        found: the round.
        what: what was done.
        effects: none for what cannot be undone, such as a pause.
        at: when.
        by: who.
        typed: whether it is one of many that are typed: those within one pause become one change.
    """
    mine = (Change.round_id == found.id, Change.dropped.is_(False))
    undone = update(Change).where(*mine, Change.undone_at.is_not(None)).values(dropped=True)
    session.execute(undone.execution_options(synchronize_session=False))
    last = _last(session, found, undone=False) if typed else None
    if last and last.kind == what.code and last.by == by and abs(at - last.until) <= ONE_PAUSE:
        before = effect_of(json.loads(last.effects)[0])
        now = effects[0]
        if isinstance(before, RecipeEffect) and isinstance(now, RecipeEffect):
            last.effects = _dumped([RecipeEffect(before.before, now.after)])
            last.until = at
            return last.id
    made = Change(
        round_id=found.id,
        at=at,
        until=at,
        by=by,
        kind=what.code,
        parameters=what.as_json(),
        effects=_dumped(effects),
        undoable=bool(effects),
        dropped=False,
    )
    session.add(made)
    session.flush()
    return made.id


def undo(session: Session, found: Round, at: datetime, by: str, only: int | None = None) -> Touched:
    """Takes the last change back. Raises NotNow when there is none that can be, or when it is not the one in `only`."""
    last = _last(session, found, undone=False)
    if last is None:
        raise NotNow("There is nothing to undo.")
    if only is not None and last.id != only:
        raise NotNow("Something else was changed since.", "Undo takes the last change back first.")
    return _go(session, found, last, at, by, back=True)


def redo(session: Session, found: Round, at: datetime, by: str) -> Touched:
    """Does the change again that was last taken back. Raises NotNow when there is none."""
    last = _last(session, found, undone=True)
    if last is None:
        raise NotNow("There is nothing to do again.")
    return _go(session, found, last, at, by, back=False)


def what_can_be_undone(session: Session, found: Round) -> tuple[str | None, str | None]:
    """What Undo and Redo would do, in words; None where there is nothing."""
    return _said(_last(session, found, undone=False)), _said(_last(session, found, undone=True))


def entries_of(session: Session, round_id: int, before: int | None, limit: int) -> list[Entry]:
    """The newest lines of a round's journal, or those older than the one with the id `before`."""
    wanted = select(Change).where(Change.round_id == round_id).order_by(Change.id.desc()).limit(limit)
    if before is not None:
        wanted = wanted.where(Change.id < before)
    return [
        Entry(
            change.id,
            change.at,
            change.by,
            reason_of(change.kind, change.parameters),
            [effect_of(data) for data in json.loads(change.effects)],
            change.undone_at,
            change.undone_by,
        )
        for change in session.scalars(wanted)
    ]


def _said(change: Change | None) -> str | None:
    return None if change is None else reason_of(change.kind, change.parameters).sentence


def _last(session: Session, found: Round, *, undone: bool) -> Change | None:
    """The change that undo, or with `undone` redo, is about."""
    mine = (
        Change.round_id == found.id,
        Change.undoable,
        Change.dropped.is_(False),
        Change.undone_at.is_not(None) if undone else Change.undone_at.is_(None),
    )
    order = Change.id if undone else Change.id.desc()
    return session.scalars(select(Change).where(*mine).order_by(order).limit(1)).first()


def _go(session: Session, found: Round, change: Change, at: datetime, by: str, *, back: bool) -> Touched:
    touched = Touched()
    effects: Iterable[Effect] = [effect_of(data) for data in json.loads(change.effects)]
    for effect in reversed(list(effects)) if back else effects:
        effect.apply(session, found, touched, back=back)
    change.undone_at, change.undone_by = (at, by) if back else (None, None)
    return touched


def _dumped(effects: Sequence[Effect]) -> str:
    return json.dumps([effect.as_json() for effect in effects], ensure_ascii=False)
