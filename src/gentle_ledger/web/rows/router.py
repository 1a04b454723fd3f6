"""The rows of a round: windows of the grid, slips, cells that are mended, and rows left out."""

from typing import Annotated

from fastapi import APIRouter, Query

from gentle_ledger.app.commands.rows import AddRow, KeepRow, MendCell
from gentle_ledger.app.counting.jobs import LookAtRows
from gentle_ledger.app.rows import fitting
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.rounds.compute import Standing as PlannedStanding
from gentle_ledger.core.rounds.marks import Mark, PlanMark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.messages import history_of, message_of, messages_of
from gentle_ledger.store.models import Round
from gentle_ledger.store.reopening import locked_rows, looked_at_anew
from gentle_ledger.store.rows import originals_of
from gentle_ledger.web.anew import finish_looking, standing_anew
from gentle_ledger.web.context import Context, Here, NumberInPath, RoundId
from gentle_ledger.web.forecast.view import with_planned
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk
from gentle_ledger.web.rows.schemas import KeepIn, KeptRow, MendIn, RowOut, Rows, SlipOut, Standing
from gentle_ledger.web.rows.view import (
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
    mark: Mark | PlanMark | None = None,
    finding: str | None = None,
    words: Annotated[str, Query(max_length=200)] = "",
    wording: str | None = None,
    planned: Annotated[
        bool, Query(description="Whether to say when each text leaves; a forecast is made for it.")
    ] = False,
) -> Rows:
    """A window of the rows that have this mark, this finding, this wording and these words in their cells."""
    found, opened = here.opened(round_id)
    with here.database.reading() as session:
        numbers = fitting(here.counting, session, found, opened, mark, finding, words, wording)
        window = numbers[offset : offset + limit]
        if found.stage == Stage.PREPARING:
            standings = here.counting.answer(opened, LookAtRows(window))
            originals = originals_of(session, found, window)
            prepared = [planned_row(opened.composer, row, where) for row, where in zip(window, standings, strict=True)]
            shown = [with_originals(opened.composer, row, originals) for row in prepared]
        else:
            wanted = messages_of(session, round_id, [number_of_row(row) for row in window])
            locked = locked_rows(session, round_id, [message.row for message in wanted])
            originals = originals_of(session, found, window)
            started = [sent_row(opened.composer, message, locked=message.row in locked) for message in wanted]
            shown = [with_originals(opened.composer, row, originals) for row in started]
    if planned:
        shown = with_planned(here, found, opened, shown)
    return Rows(version=opened.version, total=len(numbers), offset=offset, rows=shown)


@router.get("/numbers")
def row_numbers(
    here: Here,
    round_id: RoundId,
    mark: Mark | PlanMark | None = None,
    finding: str | None = None,
    words: Annotated[str, Query(max_length=200)] = "",
    wording: str | None = None,
) -> list[RowNumber]:
    """The numbers of all rows that have this mark, this finding, this wording and these words, in order."""
    found, opened = here.opened(round_id)
    with here.database.reading() as session:
        numbers = fitting(here.counting, session, found, opened, mark, finding, words, wording)
    return [number_of_row(row) for row in numbers]


def _there(found: Round, number: RowNumber) -> None:
    if not 1 <= number <= found.row_count:
        raise NotThere(f"There is no row {number} in this round.", row=number)


@router.post("", status_code=201)
def new_row(here: Here, round_id: RoundId) -> Desk:
    """Adds a blank row at the end."""
    return changed_desk(here, round_id, AddRow())


@router.get("/{number}/slip")
def slip(here: Here, round_id: RoundId, number: NumberInPath) -> SlipOut:
    """The text of one row as it will arrive, or as it was sent. It never waits for the other rows."""
    found, opened = here.opened(round_id)
    _there(found, number)
    if found.stage == Stage.PREPARING:
        return planned_slip(here, opened, row_of_number(number))
    with here.database.reading() as session:
        return sent_slip(here, opened, message_of(session, round_id, number))


@router.get("/{number}/standing")
def standing(here: Here, round_id: RoundId, number: NumberInPath) -> Standing:
    """The mark of one row with all that is known of it. The other rows are computed first: some checks compare them."""
    found, opened = here.opened(round_id)
    _there(found, number)
    if found.stage == Stage.PREPARING:
        [standing] = here.counting.answer(opened, LookAtRows([row_of_number(number)]))
        return planned_standing(number, standing)
    with here.database.reading() as session:
        message = message_of(session, round_id, number)
        # What was handed over, and when, is on record with the row that bears the text.
        bearer = message if message.with_row is None else message_of(session, round_id, message.with_row)
        sent = sent_standing(message, history_of(session, bearer.id))
    if not looked_at_anew(message):
        return sent
    now = standing_anew(here, round_id, number)
    # What went with another row meanwhile holds it too, and no check says that.
    return planned_standing(number, now).model_copy(update={"history": sent.history}) if now.mark == sent.mark else sent


@router.patch("/{number}")
def keep(here: Here, round_id: RoundId, number: NumberInPath, body: KeepIn) -> KeptRow:
    """Leaves a row out, takes it back, or releases it from a check that may be released."""
    held: list[tuple[str, str]] = []
    preparing = here.opened(round_id)[0].stage == Stage.PREPARING
    if body.released:
        standing = _standing(here, round_id, number) if preparing else _standing_anew(here, round_id, number)
        said = "; ".join(reason.sentence for reason in standing.reasons)
        if not (standing.releasable or (preparing and standing.mark != PlanMark.HELD)):
            raise NotThere(f"Row {number} cannot be released: {said}.", row=number)
        if not (body.reason or "").strip():
            raise NotUsable(f"Row {number} needs a reason for being sent all the same.", "Say it in a few words.")
        held = [(finding.check, finding.reason.sentence) for finding in standing.holding]
    keeping = KeepRow(row=number, held=held, **body.model_dump(exclude_unset=True))
    edited = here.editor.edit(round_id, keeping, deed=here.deed)
    if preparing:
        return KeptRow(**_kept(here, round_id, number).model_dump(), change=edited.change)
    finish_looking(here, round_id)
    here.changed()
    _, opened = here.opened(round_id)
    with here.database.reading() as session:
        row = sent_row(opened.composer, message_of(session, round_id, number), locked=False)
    return KeptRow(**row.model_dump(), change=edited.change)


@router.patch("/{number}/cells")
def mend_cell(here: Here, round_id: RoundId, number: NumberInPath, body: MendIn) -> Desk:
    """Gives a cell of the sheet another content. What stood there stays beside it, and that can be undone."""
    return changed_desk(here, round_id, MendCell(row=number, column=body.column, typed=body.typed, was=body.was))


@from_the_newest
def _standing(here: Context, round_id: int, number: RowNumber) -> PlannedStanding:
    found, opened = here.opened(round_id, preparing=True)
    _there(found, number)
    [standing] = here.counting.answer(opened, LookAtRows([row_of_number(number)]))
    return standing


_standing_anew = from_the_newest(standing_anew)


@from_the_newest
def _kept(here: Context, round_id: int, number: RowNumber) -> RowOut:
    found, opened = here.opened(round_id, preparing=True)
    _there(found, number)
    row = row_of_number(number)
    with here.database.reading() as session:
        originals = originals_of(session, found, [row])
    [standing] = here.counting.answer(opened, LookAtRows([row]))
    return with_originals(opened.composer, planned_row(opened.composer, row, standing), originals)
