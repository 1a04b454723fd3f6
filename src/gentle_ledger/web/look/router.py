"""The look: the texts of a round one by one, oddest first, and what was looked at."""

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query, Response

from gentle_ledger.app.counting.reading_texts import ListTexts, LookAtText, Order, ReadTexts, WriteTexts
from gentle_ledger.app.marked_sheet import Kind
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.rows import number_of_row, row_of_number
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.looked_at import forget_looked_at, keep_looked_at, looked_at
from gentle_ledger.store.messages import texts_to
from gentle_ledger.store.rounds import recipe_of, round_of
from gentle_ledger.web.context import Context, Here, NumberInPath, RoundId
from gentle_ledger.web.look.schemas import (
    LastTime,
    LookCell,
    LookedOut,
    LookLineOut,
    SeenIn,
    TextLineOut,
    TextsOut,
    TextsToRead,
)
from gentle_ledger.web.rows.schemas import SlipOut
from gentle_ledger.web.rows.view import cells_out, cells_together, planned_slip, planned_standing

router = APIRouter(prefix="/api/rounds/{round_id}/look", tags=["look"])

_TYPES = {"csv": "text/csv", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}


@router.get("")
@from_the_newest
def texts_to_read(
    here: Here,
    round_id: RoundId,
    order: Order = "odd",
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
) -> TextsToRead:
    """How far the texts were read, and a stretch of them."""
    _, opened = here.opened(round_id, preparing=True)
    with here.database.reading() as session:
        seen = looked_at(session, round_id)
    found = here.counting.answer(opened, ReadTexts(seen, order, offset, limit))
    return TextsToRead(
        version=opened.version,
        title=opened.recipe.title,
        texts=found.texts,
        odd=found.odd,
        seen=found.seen,
        odd_seen=found.odd_seen,
        next_odd=None if found.next_odd is None else number_of_row(found.next_odd),
        lines=[
            LookLineOut(
                row=number_of_row(line.row),
                label=line.label,
                says=list(line.says),
                odd=line.odd,
                seen=line.seen,
                mark=line.mark,
            )
            for line in found.lines
        ],
    )


@router.get("/texts")
@from_the_newest
def all_texts(
    here: Here,
    round_id: RoundId,
    words: Annotated[str, Query(max_length=200)] = "",
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
) -> TextsOut:
    """A stretch of the finished texts, by row, for skimming."""
    _, opened = here.opened(round_id, preparing=True)
    total, lines = here.counting.answer(opened, ListTexts(words, offset, limit))
    return TextsOut(
        version=opened.version,
        title=opened.recipe.title,
        total=total,
        lines=[TextLineOut(**{**asdict(line), "row": number_of_row(line.row)}) for line in lines],
    )


@router.get(
    "/texts.{kind}",
    response_class=Response,
    responses={200: {"description": "The texts.", "content": {each: {} for each in _TYPES.values()}}},
)
@from_the_newest
def texts_file(here: Here, round_id: RoundId, kind: Kind) -> Response:
    """All finished texts as a file, for somebody else to check."""
    _, opened = here.opened(round_id, preparing=True)
    data = here.counting.answer(opened, WriteTexts(kind))
    saved = {"Content-Disposition": f'attachment; filename="texts.{kind}"'}
    return Response(data, media_type=_TYPES[kind], headers=saved)


@router.get("/{number}")
@from_the_newest
def text_to_read(here: Here, round_id: RoundId, number: NumberInPath) -> LookedOut:
    """One text with its row, where it stands, and what differs from the plain case."""
    found, opened = here.opened(round_id, preparing=True)
    if number > found.row_count:
        raise NotThere(f"There is no row {number} in this round.", row=number)
    looked = here.counting.answer(opened, LookAtText(row_of_number(number)))
    slip = planned_slip(here, opened, looked.row)
    columns, sheet_row = opened.composer.columns, opened.readings.sheet.rows[looked.row]
    used = _in_text(slip)
    shown, together = cells_out(opened.composer, looked.row), cells_together(opened.composer, looked.row)
    return LookedOut(
        version=opened.version,
        row=number_of_row(looked.row),
        fingerprint=looked.fingerprint,
        slip=slip,
        standing=planned_standing(number_of_row(looked.row), looked.standing),
        differs=list(looked.differs),
        cells=[
            LookCell(
                column=name,
                shown=cell.shown,
                trouble=cell.trouble,
                explained=cell.explained,
                in_text=name in used,
                together=together[place] if together[place] != cell.shown else None,
                rows=max(1, len(opened.composer.groups.together(looked.row))),
                computed=place >= columns.first_computed,
                typed=as_written(sheet_row[place]).strip() if place < columns.first_computed else "",
            )
            for place, (name, cell) in enumerate(zip(columns.names, shown, strict=True))
        ],
        last=_last_time(here, round_id, slip.number),
    )


def _in_text(slip: SlipOut) -> set[str]:
    """The columns whose cells stand in a text."""
    return {run.column for part in slip.parts for run in part if run.column and not run.gap}


def _last_time(here: Context, round_id: int, number: str) -> LastTime | None:
    with here.database.reading() as session:
        went = (each for each in texts_to(session, number) if each.mark == "Sent" and each.round_id != round_id)
        last = next(went, None) if number else None
        if last is None:
            return None
        title = recipe_of(round_of(session, last.round_id)).title
        return LastTime(title=title, at=f"{last.marked_at.astimezone():%Y-%m-%d}", text=last.text)


@router.put("/{number}/seen", status_code=204)
def note_seen(here: Here, round_id: RoundId, number: NumberInPath, body: SeenIn) -> Response:
    """Notes that a text was looked at as it was shown, or that it is to be looked at once more."""
    found, _ = here.opened(round_id, preparing=True)
    if number > found.row_count:
        raise NotThere(f"There is no row {number} in this round.", row=number)
    with here.database.writing() as session:
        if body.seen:
            keep_looked_at(session, round_id, number, body.fingerprint, here.clock.now())
        else:
            forget_looked_at(session, round_id, number)
    return Response(status_code=204)
