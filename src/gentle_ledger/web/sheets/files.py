"""Files to take away: the marked sheet, and the sample sheets."""

import re
from importlib import resources
from typing import Any

from fastapi import APIRouter, Response

from gentle_ledger.app.counting.jobs import WriteMarkedSheet
from gentle_ledger.app.marked_sheet import Kind
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.errors import NotThere
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
_MEDIA: dict[Kind, str] = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


def _files(*media: str) -> dict[int | str, dict[str, Any]]:
    """How a file is described: its kinds, instead of JSON."""
    return {200: {"description": "The file.", "content": {kind.partition(";")[0]: {} for kind in media}}}


@router.get(
    "/rounds/{round_id}/marked-sheet.{kind}",
    response_class=Response,
    responses=_files(*_MEDIA.values()),
)
@from_the_newest
def marked_sheet(here: Here, round_id: RoundId, kind: Kind) -> Response:
    """The original columns as they were, the computed ones, then mark, time, reason, reference, parts and text."""
    found, state = here.opened(round_id)
    data = here.counting.answer(state, WriteMarkedSheet(kind, Stage(found.stage)))
    name = re.sub(r"[^a-z0-9]+", "-", state.recipe.title.lower()).strip("-") or "round"
    headers = {"Content-Disposition": f'attachment; filename="{name}-marked.{kind}"'}
    return Response(data, media_type=_MEDIA[kind], headers=headers)


@router.get("/samples")
def samples() -> list[Sample]:
    return list(_SAMPLES)


@router.get("/samples/{file_name}", response_class=Response, responses=_files(*_MEDIA.values()))
def sample(file_name: str) -> Response:
    if file_name not in {known.file_name for known in _SAMPLES}:
        raise NotThere("There is no such sample sheet.")
    data = (resources.files("gentle_ledger.demo") / "sheets" / file_name).read_bytes()
    media = next(media for kind, media in _MEDIA.items() if file_name.endswith(kind))
    return Response(data, media_type=media, headers={"Content-Disposition": f'attachment; filename="{file_name}"'})
