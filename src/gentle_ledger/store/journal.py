"""The journal of a round: every change with what was before and after, so that it can be undone and done again."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from sqlalchemy import Select, and_, func, or_, select, update
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.reasons import Reason, reason_of
from gentle_ledger.store.deeds import NO_DEED, Deed
from gentle_ledger.store.effects import Effect, RecipeEffect, as_kept, effect_of
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import Change, Round

ONE_PAUSE = timedelta(seconds=2)
"""What is typed within this time of the last key is one change."""


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
    deed: Deed = NO_DEED,
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
        deed: what the window says of it.
    """
    mine = (Change.round_id == found.id, Change.id > found.stands_upto, Change.dropped.is_(False))
    undone = update(Change).where(*mine, Change.undone_at.is_not(None)).values(dropped=True)
    session.execute(undone.execution_options(synchronize_session=False))
    last = _last(session, found, undone=False) if typed else None
    mine_too = last is not None and (last.kind, last.by, last.window) == (what.code, by, deed.window)
    if last and mine_too and abs(at - last.until) <= ONE_PAUSE:
        before = effect_of(json.loads(last.effects)[0])
        now = effects[0]
        if isinstance(before, RecipeEffect) and isinstance(now, RecipeEffect):
            last.effects = as_kept([RecipeEffect(before.before, now.after)])
            last.until, last.version = at, found.version + 1
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
        window=deed.window,
        version=found.version + 1,
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


class NotFromHere(NotNow):
    """What would be undone, or done again, was not done in the window that asks."""

    kind = "not done here"


def steps_of(
    session: Session,
    found: Round,
    *,
    back: bool,
    only: int | None = None,
    upto: int | None = None,
    window: str | None = None,
) -> list[Step]:
    """What undo, with `back`, or redo is to do, one change after another, in the order in which it is done.

    Undo takes the last change back, or with `upto` every one down to that one; redo does the last again that was taken
    back, or with `upto` every one up to that one. Raises NotNow when there is none, when the last one is not the one in
    `only`, or when `upto` is none of them. Where neither is said, raises NotFromHere when another `window` did it.
    """
    last = _last(session, found, undone=not back)
    if last is None:
        raise NotNow(f"There is nothing to {'undo' if back else 'redo'}{_since(found)}.")
    if only is not None and last.id != only:
        raise NotNow("Something else was changed since.", "Undo takes the last change back first.")
    if only is None and upto is None and window is not None:
        _refuse_strange(last, window, back=back)
    wanted = last if upto is None else session.get(Change, upto)
    if wanted is None or wanted.round_id != found.id or (wanted.undone_at is None) is not back:
        raise NotNow("This change was undone or done again meanwhile.", "Look at the list once more.")
    within = Change.id >= wanted.id if back else Change.id <= wanted.id
    steps: list[Step] = []
    for change in session.scalars(_open_changes(found, undone=not back).where(within)):
        effects: list[Effect] = [effect_of(data) for data in json.loads(change.effects)]
        steps.append(Step(change.id, effects[::-1] if back else effects))
    return steps


def _refuse_strange(last: Change, window: str, *, back: bool) -> None:
    """Raises NotFromHere for a change that another window made, or took back."""
    if (last.window if back else last.undone_window) == window:
        return
    did = "made" if back else "taken back"
    refusal = NotFromHere(f"The last change was not {did} in this window: {_said(last)}.")
    refusal.more = {"change": last.id, "what": _said(last)}
    raise refusal


def others_since(session: Session, found: Round, deed: Deed) -> list[Effect]:
    """What other windows did, or took back, since one had seen the round; none where it does not say what it saw."""
    if deed.seen is None or deed.seen >= found.version:
        return []
    mine = Change.round_id == found.id
    done = and_(mine, Change.version > deed.seen, Change.window != deed.window)
    undone = and_(mine, Change.undone_version > deed.seen, Change.undone_window != deed.window)
    wanted = select(Change.effects).where(Change.undoable, or_(done, undone))
    return [effect_of(data) for effects in session.scalars(wanted) for data in json.loads(effects)]


def take_step(
    session: Session, found: Round, step: Step, at: datetime, by: str, *, back: bool, deed: Deed = NO_DEED
) -> None:
    """Enters that a change was taken back, or done again. Raises NotNow where that was done meanwhile."""
    change = session.get(Change, step.id)
    if change is None or change.dropped or change.id <= found.stands_upto or (change.undone_at is None) is not back:
        raise NotNow("This change was undone or done again meanwhile.", "Look at the list once more.")
    change.undone_at, change.undone_by = (at, by) if back else (None, None)
    # What is done again was made by whoever did it again.
    if back:
        change.undone_window, change.undone_version = deed.window, found.version + 1
    else:
        change.window, change.version = deed.window, found.version + 1
    session.flush()


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
