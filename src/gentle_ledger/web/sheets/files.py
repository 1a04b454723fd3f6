"""Files to take away: the marked sheet, and the sample sheets."""

import re
from collections.abc import Callable, Iterator
from importlib import resources
from typing import Any, Literal

from fastapi import APIRouter, Response
from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.app.open_rounds import OpenRound, from_the_newest
from gentle_ledger.core.columns.display import outputs
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.export import MarkedRow, to_csv, to_xlsx
from gentle_ledger.core.sms.parts import measure
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import recipe_of
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.sheets.schemas import Sample

router = APIRouter(prefix="/api", tags=["files"])

_SAMPLES = (
    Sample(
        file_name="november-berth-dues.csv",
        title="November berth dues",
        about="58 berth holders, with the faults real sheets have",
    ),
    Sample(file_name="november-berth-dues.xlsx", title="November berth dues", about="The same as a workbook"),
    Sample(file_name="winter-lift-out.xlsx", title="Winter lift-out", about="12 boats, ready to send in half a minute"),
)
_KINDS: dict[str, tuple[str, Callable[..., bytes]]] = {
    "csv": ("text/csv; charset=utf-8", to_csv),
    "xlsx": ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", to_xlsx),
}


def _files(*media: str) -> dict[int | str, dict[str, Any]]:
    """How a file is described: its kinds, instead of JSON."""
    return {200: {"description": "The file.", "content": {kind.partition(";")[0]: {} for kind in media}}}


@router.get(
    "/rounds/{round_id}/marked-sheet.{kind}",
    response_class=Response,
    responses=_files(*(media for media, _ in _KINDS.values())),
)
@from_the_newest
def marked_sheet(here: Here, round_id: RoundId, kind: Literal["csv", "xlsx"]) -> Response:
    """The original columns as they were, the computed ones, then mark, time, reason, reference, parts and text."""
    found, state = here.opened(round_id)
    computed = state.computed() if found.stage == Stage.PREPARING else None
    with here.database.reading() as session:
        rows = _marked(session, found, state) if computed is None else _planned(computed)
        media, write = _KINDS[kind]
        data = write(state.composer.columns.names, rows)
        name = re.sub(r"[^a-z0-9]+", "-", recipe_of(found).title.lower()).strip("-") or "round"
    headers = {"Content-Disposition": f'attachment; filename="{name}-marked.{kind}"'}
    return Response(data, media_type=media, headers=headers)


def _planned(computed: Computed) -> Iterator[MarkedRow]:
    composer = computed.composer
    more = outputs(composer.evaluation).values()
    for row, cells in enumerate(composer.readings.sheet.rows):
        text = computed.texts[row]
        parts = computed.measures[row].parts if text else None
        yield MarkedRow(
            (*cells, *(v(row) for v in more)), computed.marks[row], None, computed.reason(row), "", parts, text
        )


def _marked(session: Session, found: Round, state: OpenRound) -> Iterator[MarkedRow]:
    cells = state.readings.sheet.rows
    more = outputs(state.composer.evaluation).values()
    wanted = select(Message).where(Message.round_id == found.id).order_by(Message.row)
    for message in session.scalars(wanted.execution_options(yield_per=2_000)):
        reached = message.mark not in {Mark.HELD, Mark.LEFT_OUT, Mark.TO_GO}
        yield MarkedRow(
            (*cells[message.row - 1], *(value(message.row - 1) for value in more)),
            message.mark,
            message.marked_at if reached else None,
            message.reason,
            message.reference or "",
            measure(message.text).parts if message.text else None,
            message.text,
        )


@router.get("/samples")
def samples() -> list[Sample]:
    return list(_SAMPLES)


@router.get("/samples/{file_name}", response_class=Response, responses=_files(*(media for media, _ in _KINDS.values())))
def sample(file_name: str) -> Response:
    if file_name not in {known.file_name for known in _SAMPLES}:
        raise NotThere("There is no such sample sheet.")
    data = (resources.files("gentle_ledger.demo") / "sheets" / file_name).read_bytes()
    media = _KINDS[file_name.rsplit(".", 1)[-1]][0]
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{file_name}"'})
