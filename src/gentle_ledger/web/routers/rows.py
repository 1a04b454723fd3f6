"""The rows of a round: windows of the grid, slips, and rows left out."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query
from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.rounds.marks import PlanMark, Stage
from gentle_ledger.store.corrections import leave_out, originals_of
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.messages import history_of
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import preparing_round, release_row
from gentle_ledger.web import schemas as out
from gentle_ledger.web.context import Context, Here, RoundId, RowNumber, short_work
from gentle_ledger.web.desks import DeskState, from_the_newest
from gentle_ledger.web.views import (
    planned_row,
    planned_slip,
    planned_standing,
    sent_row,
    sent_slip,
    sent_standing,
    with_originals,
)

router = APIRouter(prefix="/api/rounds/{round_id}/rows", tags=["rows"])


@router.get("")
def rows(
    here: Here,
    round_id: RoundId,
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
    mark: str | None = None,
    finding: str | None = None,
    words: Annotated[str, Query(max_length=200)] = "",
) -> out.Rows:
    """A window of the rows that have this mark, this finding and these words in their cells."""
    found, state = here.opened(round_id)
    if found.stage == Stage.PREPARING:
        state.computed()
    with here.database.reading() as session:
        numbers = _fitting(here, session, found, state, mark, finding, words)
        window = numbers[offset : offset + limit]
        if found.stage == Stage.PREPARING:
            originals = originals_of(session, found, window)
            rows = [planned_row(state.computed(), row) for row in window]
            shown = [with_originals(state.composer, row, originals) for row in rows]
        else:
            wanted = select(Message).where(Message.round_id == round_id, Message.row.in_([row + 1 for row in window]))
            shown = [sent_row(state.composer, m) for m in session.scalars(wanted.order_by(Message.row))]
    return out.Rows(version=state.version, total=len(numbers), offset=offset, rows=shown)


def _fitting(
    here: Context, session: Session, found: Round, state: DeskState, mark: str | None, finding: str | None, words: str
) -> list[int]:
    """The rows (from 0) that pass every filter, in order."""
    passing: set[int] | None = None
    if finding is not None and found.stage == Stage.PREPARING:
        passing = {f.row for f in state.computed().by_check.get(finding, ())}
    if mark is not None and found.stage == Stage.PREPARING:
        marked = {row for row, m in enumerate(state.computed().marks) if m == mark}
        passing = marked if passing is None else passing & marked
    elif mark is not None:
        wanted = select(Message.row).where(Message.round_id == found.id, Message.mark == mark)
        passing = {row - 1 for row in session.scalars(wanted)}
    if words.strip():
        holding = here.desks.search(state, words)
        return [row for row in holding if passing is None or row in passing]
    return list(range(found.row_count)) if passing is None else sorted(passing)


def _there(found: Round, number: int) -> None:
    if not 1 <= number <= found.row_count:
        raise NotThere(f"There is no row {number} in this round.", row=number)


def _message(session: Session, round_id: int, number: int) -> Message:
    return session.scalars(select(Message).where(Message.round_id == round_id, Message.row == number)).one()


@router.get("/{number}/slip", dependencies=[Depends(short_work)])
def slip(here: Here, round_id: RoundId, number: RowNumber) -> out.SlipOut:
    """The text of one row as it will arrive, or as it was sent. It never waits for the other rows."""
    found, state = here.opened(round_id)
    _there(found, number)
    if found.stage == Stage.PREPARING:
        return planned_slip(here, state, number - 1)
    with here.database.reading() as session:
        return sent_slip(here, state, _message(session, round_id, number))


@router.get("/{number}/standing")
def standing(here: Here, round_id: RoundId, number: RowNumber) -> out.Standing:
    """The mark of one row with all that is known of it. The other rows are computed first: some checks compare them."""
    found, state = here.opened(round_id)
    _there(found, number)
    if found.stage == Stage.PREPARING:
        return planned_standing(state.computed(), number - 1)
    with here.database.reading() as session:
        message = _message(session, round_id, number)
        # What was handed over, and when, is on record with the row that bears the text.
        bearer = message if message.with_row is None else _message(session, round_id, message.with_row)
        return sent_standing(message, history_of(session, bearer.id))


@router.patch("/{number}")
def keep(here: Here, round_id: RoundId, number: RowNumber, body: out.KeepIn) -> out.RowOut:
    """Leaves a row out, takes it back, or releases it from a check that may be released."""
    if body.released:
        row = _kept(here, round_id, number)
        if row.mark == PlanMark.HELD and not row.releasable:
            raise NotThere(f"Row {number} cannot be released: {row.reason}.", row=number)
    with here.database.writing() as session:
        found = preparing_round(session, round_id)
        if body.left_out is not None:
            leave_out(session, found, [number], body.left_out)
        if body.released is not None:
            release_row(session, found, number, body.released)
    return _kept(here, round_id, number)


@from_the_newest
def _kept(here: Context, round_id: int, number: int) -> out.RowOut:
    found, state = here.opened(round_id, preparing=True)
    _there(found, number)
    with here.database.reading() as session:
        originals = originals_of(session, found, [number - 1])
    return with_originals(state.composer, planned_row(state.computed(), number - 1), originals)
