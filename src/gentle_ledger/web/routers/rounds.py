"""Rounds: bringing a sheet in, the desk, and its set-up."""

from fastapi import APIRouter, Depends, Response
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.recipe.model import Recipe, recipe_to_toml
from gentle_ledger.core.rounds.marks import Mark, Stage
from gentle_ledger.store.corrections import what_can_be_undone
from gentle_ledger.store.messages import counts_of
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import (
    list_rounds,
    not_started,
    preparing_round,
    recipe_of,
    remove_round,
    round_of,
    set_recipe,
)
from gentle_ledger.web import schemas as out
from gentle_ledger.web.changes import changed
from gentle_ledger.web.context import Context, Here, RoundId, short_work
from gentle_ledger.web.desks import from_the_newest
from gentle_ledger.web.views import counts_out, desk, planned_slip, wording_problems

router = APIRouter(prefix="/api/rounds", tags=["rounds"])


@router.get("")
def rounds(here: Here) -> list[out.RoundInList]:
    with here.database.reading() as session:
        return [round_in_list(found, counts) for found, counts in list_rounds(session)]


def round_in_list(found: Round, counts: dict[Mark, int]) -> out.RoundInList:
    return out.RoundInList(
        id=found.id,
        title=recipe_of(found).title,
        stage=Stage(found.stage),
        file_name=found.file_name,
        rows=found.row_count,
        counts=counts_out(counts),
        created_at=found.created_at,
        started_at=found.started_at,
        finished_at=found.finished_at,
    )


@router.get("/{round_id}")
def get_desk(here: Here, round_id: RoundId) -> out.Desk:
    found, state = here.opened(round_id)
    with here.database.reading() as session:
        if found.stage != Stage.PREPARING:
            return desk(here, found, state, counts_of(session, round_id))
        steps = what_can_be_undone(session, found)
    return desk(here, found, state, {}, steps)


@router.get("/{round_id}/progress")
async def progress(here: Here, round_id: RoundId) -> out.Progress:
    """How far the counting of the round's rows is. It waits for nothing."""
    return out.Progress(percent=here.desks.percent(round_id))


@router.delete("/{round_id}", status_code=204)
def remove(here: Here, round_id: RoundId) -> Response:
    """Removes a round that was never started."""
    with here.database.writing() as session:
        remove_round(session, round_id)
    here.desks.forget(round_id)
    return Response(status_code=204)


class Behind(LedgerError):
    """Another window has written another wording meanwhile; neither replaces the other by itself."""

    kind = "behind"
    status = 409

    def __init__(self, theirs: str) -> None:
        super().__init__("Another window has changed the wording meanwhile.", "Choose which of the two is to stand.")
        self.more = {"theirs": theirs}


@router.put("/{round_id}/wording", dependencies=[Depends(short_work)])
def put_wording(here: Here, round_id: RoundId, body: out.WordingIn) -> out.WordingOut:
    """Keeps the wording and answers with the slip of the selected row; the other rows are computed when asked for."""
    if not here.desks.at_hand(round_id):
        # A large sheet takes a while to read: that must not keep the sender from writing.
        here.opened(round_id)
    with here.database.writing() as session:
        found = preparing_round(session, round_id)
        state = here.desks.state(session, found)
        if body.was is not None and state.recipe.wording not in {body.was, body.wording}:
            raise Behind(state.recipe.wording)
        recipe = Recipe.model_validate(state.recipe.model_copy(update={"wording": body.wording}).model_dump())
        if recipe != state.recipe:
            set_recipe(found, recipe)
        row = min(body.row, found.row_count) - 1
    if state.version != found.version:
        state = here.desks.with_recipe(state, found, recipe)
    return out.WordingOut(
        version=state.version,
        wording_problems=wording_problems(recipe.wording, state.composer.problems),
        slip=planned_slip(here, state, row),
    )


@router.patch("/{round_id}")
def set_up(here: Here, round_id: RoundId, body: out.SetupIn) -> out.Desk:
    """Title and pace at any time; region, currency, locale and date only before sending starts."""
    changes = {name: getattr(body, name) for name in body.model_fields_set}
    with here.database.writing() as session:
        found = round_of(session, round_id)
        if found.stage == Stage.PREPARING or set(changes) - {"title", "pace"}:
            preparing_round(session, round_id)
        _change(here, session, found, changes)
    here.changed()
    return from_the_newest(get_desk)(here, round_id)


def _change(here: Context, session: Session, found: Round, changes: dict[str, object]) -> None:
    set_recipe(found, changed(here.desks.state(session, found).recipe, changes))


@router.post("/{round_id}/recipe/mend")
def mend_recipe(here: Here, round_id: RoundId) -> out.Desk:
    """Goes on without what of the kept set-up cannot be used."""
    with here.database.writing() as session:
        found = not_started(session, round_id)
        set_recipe(found, recipe_of(found))
    return from_the_newest(get_desk)(here, round_id)


@router.get(
    "/{round_id}/recipe.toml",
    response_class=Response,
    responses={200: {"description": "The recipe.", "content": {"application/toml": {}}}},
)
def recipe_file(here: Here, round_id: RoundId) -> Response:
    """The round's set-up as a file, the same that `gentle-ledger compute` reads."""
    with here.database.reading() as session:
        text = recipe_to_toml(recipe_of(round_of(session, round_id)))
    return Response(
        text, media_type="application/toml", headers={"Content-Disposition": 'attachment; filename="recipe.toml"'}
    )
