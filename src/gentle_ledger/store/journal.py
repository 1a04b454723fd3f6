"""The journal of a round: every change with what was before and after, so that it can be undone and done again."""

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Literal, Protocol, TypeVar, cast

from sqlalchemy import Select, func, select, update
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.reasons import Reason, reason_of
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.store.cells import cells_from_json, cells_to_json
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import Change, Round
from gentle_ledger.store.rounds import recipe_of, refuse_unusable, set_recipe
from gentle_ledger.store.rows import put_blank_rows, remove_last_rows, set_flag, set_release, swap_sheets, write_cells
from gentle_ledger.store.sheets import PIECE

ONE_PAUSE = timedelta(seconds=2)
"""What is typed within this time of the last key is one change."""


@dataclass
class Touched:
    """What a change touched, so that only what comes from it is read anew.

    Attributes:
        cells: rows and columns, from 0.
        rows: whether there are more rows at the end, or fewer.
        whole: whether another sheet stands in its place.
        flags: whether rows were left out or released, or taken back.
    """

    cells: set[tuple[int, int]] = field(default_factory=set)
    rows: bool = False
    whole: bool = False
    flags: bool = False

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
    can_be: Literal["undone", "redone"] | None
    """What can be done about it now, with all that was changed since."""


def write(
    session: Session,
    found: Round,
    what: Reason,
    effects: Sequence[Effect],
    at: datetime,
    by: str,
    *,
    typed: bool = False,
    kept: str | None = None,
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
        kept: the effects as they are kept, where these are so many that it takes a while to write them out.
    """
    mine = (Change.round_id == found.id, Change.id > found.stands_upto, Change.dropped.is_(False))
    undone = update(Change).where(*mine, Change.undone_at.is_not(None)).values(dropped=True)
    session.execute(undone.execution_options(synchronize_session=False))
    last = _last(session, found, undone=False) if typed else None
    if last and last.kind == what.code and last.by == by and abs(at - last.until) <= ONE_PAUSE:
        before = effect_of(json.loads(last.effects)[0])
        now = effects[0]
        if isinstance(before, RecipeEffect) and isinstance(now, RecipeEffect):
            last.effects = as_kept([RecipeEffect(before.before, now.after)])
            last.until = at
            return last.id
    made = Change(
        round_id=found.id,
        at=at,
        until=at,
        by=by,
        kind=what.code,
        parameters=what.as_json(),
        effects=as_kept(effects) if kept is None else kept,
        undoable=bool(effects),
        dropped=False,
    )
    session.add(made)
    session.flush()
    return made.id


def close(session: Session, found: Round) -> None:
    """Lets all that was changed until now stand for good: sending starts, and what was seen is what is sent."""
    session.flush()
    found.stands_upto = session.scalar(select(func.max(Change.id)).where(Change.round_id == found.id)) or 0


@dataclass(frozen=True, slots=True)
class Step:
    """A change that is to be taken back, or done again: its number, and what is to be done about it, in that order."""

    id: int
    effects: Sequence[Effect]


def undo(
    session: Session, found: Round, at: datetime, by: str, only: int | None = None, upto: int | None = None
) -> Touched:
    """Takes the last change back, or with `upto` every one down to that one, the newest first.

    Raises NotNow when there is none that can be, when it is not the one in `only`, or when `upto` is none of them.
    """
    return _go_through(session, found, at, by, steps_of(session, found, back=True, only=only, upto=upto), back=True)


def redo(session: Session, found: Round, at: datetime, by: str, upto: int | None = None) -> Touched:
    """Does the change again that was last taken back, or with `upto` every one up to that one, in their order.

    Raises NotNow when there is none, or when `upto` is none of them.
    """
    return _go_through(session, found, at, by, steps_of(session, found, back=False, upto=upto), back=False)


def steps_of(
    session: Session, found: Round, *, back: bool, only: int | None = None, upto: int | None = None
) -> list[Step]:
    """What `undo`, with `back`, or `redo` would do, one change after another. Raises what these raise."""
    last = _last(session, found, undone=not back)
    if last is None:
        raise NotNow(f"There is nothing to {'undo' if back else 'redo'}{_since(found)}.")
    if only is not None and last.id != only:
        raise NotNow("Something else was changed since.", "Undo takes the last change back first.")
    wanted = last if upto is None else session.get(Change, upto)
    if wanted is None or wanted.round_id != found.id or (wanted.undone_at is None) is not back:
        raise NotNow("This change was undone or done again meanwhile.", "Look at the list once more.")
    within = Change.id >= wanted.id if back else Change.id <= wanted.id
    steps: list[Step] = []
    for change in session.scalars(_open_changes(found, undone=not back).where(within)):
        effects: list[Effect] = [effect_of(data) for data in json.loads(change.effects)]
        steps.append(Step(change.id, effects[::-1] if back else effects))
    return steps


def take_step(session: Session, found: Round, step: Step, at: datetime, by: str, *, back: bool) -> None:
    """Enters that a change was taken back, or done again. Raises NotNow where that was done meanwhile."""
    change = session.get(Change, step.id)
    if change is None or change.dropped or change.id <= found.stands_upto or (change.undone_at is None) is not back:
        raise NotNow("This change was undone or done again meanwhile.", "Look at the list once more.")
    change.undone_at, change.undone_by = (at, by) if back else (None, None)
    session.flush()


def _go_through(session: Session, found: Round, at: datetime, by: str, steps: Iterable[Step], *, back: bool) -> Touched:
    touched = Touched()
    for step in steps:
        for effect in step.effects:
            effect.apply(session, found, touched, back=back)
        take_step(session, found, step, at, by, back=back)
    return touched


def _since(found: Round) -> str:
    return ": what was before is locked since sending started" if found.started_at else ""


def what_can_be_undone(session: Session, found: Round) -> tuple[str | None, str | None]:
    """What Undo and Redo would do, in words; None where there is nothing."""
    return _said(_last(session, found, undone=False)), _said(_last(session, found, undone=True))


def entries_of(session: Session, found: Round, before: int | None, limit: int) -> list[Entry]:
    """The newest lines of a round's journal, or those older than the one with the id `before`."""
    wanted = select(Change).where(Change.round_id == found.id).order_by(Change.id.desc()).limit(limit)
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
            _can_be(found, change),
        )
        for change in session.scalars(wanted)
    ]


def _can_be(found: Round, change: Change) -> Literal["undone", "redone"] | None:
    """What undo or redo, as far as they may go, would do about a change."""
    if not change.undoable or change.dropped or change.id <= found.stands_upto:
        return None
    return "undone" if change.undone_at is None else "redone"


def _said(change: Change | None) -> str | None:
    return None if change is None else reason_of(change.kind, change.parameters).sentence


def _last(session: Session, found: Round, *, undone: bool) -> Change | None:
    """The change that undo, or with `undone` redo, is about. See `close` for what stands."""
    return session.scalars(_open_changes(found, undone=undone).limit(1)).first()


def _open_changes(found: Round, *, undone: bool) -> Select[Change]:
    mine = (
        Change.round_id == found.id,
        Change.id > found.stands_upto,
        Change.undoable,
        Change.dropped.is_(False),
        Change.undone_at.is_not(None) if undone else Change.undone_at.is_(None),
    )
    return select(Change).where(*mine).order_by(Change.id if undone else Change.id.desc())


def as_kept(effects: Sequence[Effect]) -> str:
    """The effects of a change as text."""
    return json.dumps([effect.as_json() for effect in effects], ensure_ascii=False)
