"""Rounds: the list, the desk, the set-up, and what was changed."""

from contextlib import suppress
from typing import Annotated

from fastapi import APIRouter, Query, Response
from sqlalchemy.exc import DatabaseError

from gentle_ledger.app.commands.setup import MendRecipe, SayTogether, SetPace, SetUp
from gentle_ledger.app.commands.wordings import WriteWording, conditional
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.fields import Where
from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.recipe.toml import recipe_to_toml
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.clearing import clear_away
from gentle_ledger.store.journal import entries_of
from gentle_ledger.store.rounds import (
    columns_of,
    list_rounds,
    recipe_of,
    remove_round,
    removed_rounds,
    restore_round,
    round_of,
)
from gentle_ledger.web.anew import finish_looking
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.places import fields_out, wording_problems
from gentle_ledger.web.rounds.schemas import Changes, Desk, Progress, RoundInList, VersionOut, WordingIn, WordingOut
from gentle_ledger.web.rounds.view import (
    as_deeds,
    change_out,
    changed_desk,
    get_desk,
    newest_desk,
    round_in_list,
    wording_at,
)
from gentle_ledger.web.rows.view import planned_slip
from gentle_ledger.web.sending.view import under_way

router = APIRouter(prefix="/api/rounds", tags=["rounds"])

ChangeId = Annotated[int | None, Query(ge=1, le=2**63 - 1)]


@router.get("")
def rounds(here: Here) -> list[RoundInList]:
    """All rounds, the newest first."""
    with here.database.reading() as session:
        return [
            round_in_list(found, counts, *under_way(here, session, found)) for found, counts in list_rounds(session)
        ]


@router.get("/removed")
def removed(here: Here) -> list[RoundInList]:
    """The rounds that were removed since yesterday and can be brought back, the last one first."""
    with here.database.reading() as session:
        return [round_in_list(found, {}) for found in removed_rounds(session, here.clock.now())]


@router.post("/{round_id}/restore", status_code=204)
def restore(here: Here, round_id: RoundId) -> Response:
    """Brings a removed round back as it was."""
    with here.database.writing() as session:
        restore_round(session, round_id)
    here.changed()
    return Response(status_code=204)


@router.get("/{round_id}/version")
def version(here: Here, round_id: RoundId) -> VersionOut:
    """The round's version alone, for a window that looks whether another one changed or removed it."""
    with here.database.reading() as session:
        found = round_of(session, round_id)
        return VersionOut(version=found.version, stage=Stage(found.stage))


@router.get("/{round_id}")
def desk(here: Here, round_id: RoundId) -> Desk:
    """All that is shown of a round besides its rows."""
    # A disk without room must not keep anybody from looking; what is not looked at anew yet says so in its row.
    with suppress(DatabaseError, LedgerError):
        finish_looking(here, round_id)
    return get_desk(here, round_id)


@router.get("/{round_id}/progress")
async def progress(here: Here, round_id: RoundId) -> Progress:
    """How far the counting of the round's rows is. It waits for nothing."""
    known = here.rounds.known(round_id)
    return Progress(percent=100 if known and known.counted else here.counting.percent(round_id))


@router.delete("/{round_id}", status_code=204)
def remove(here: Here, round_id: RoundId) -> Response:
    """Removes a round that was never started. It can be brought back until the next day."""
    with here.database.writing() as session:
        remove_round(session, round_id, here.clock.now())
    clear_away(here.database)
    here.rounds.forget(round_id)
    here.changed()
    return Response(status_code=204)


@router.put("/{round_id}/wording")
def put_wording(here: Here, round_id: RoundId, body: WordingIn) -> WordingOut:
    """Keeps the wording and answers with the slip of the selected row; the other rows are computed when asked for."""
    writing = WriteWording(wording=body.wording, was=body.was, of=body.of)
    opened = here.editor.edit(round_id, writing, deed=here.deed).opened
    text = opened.recipe.wording if body.of is None else conditional(opened.recipe, body.of).text
    row = min(row_of_number(body.row), len(opened.readings.sheet.rows) - 1)
    return WordingOut(
        version=opened.version,
        of=body.of,
        wording=text,
        wording_fields=fields_out(text, Where.WORDING, opened.composer.columns),
        wording_problems=wording_problems(text, wording_at(opened, body.of).problems),
        slip=planned_slip(here, opened, row),
    )


@router.patch("/{round_id}")
def set_up(here: Here, round_id: RoundId, body: SetUp) -> Desk:
    """Title and pace at any time; region, currency, locale and date only before sending starts."""
    if body.model_fields_set <= {"title", "pace"}:
        return changed_desk(here, round_id, SetPace.model_validate(body.model_dump(exclude_unset=True)))
    return changed_desk(here, round_id, body)


@router.post("/{round_id}/together")
def say_together(here: Here, round_id: RoundId, body: SayTogether) -> Desk:
    """Says that rows which are combined belong together, though their names are of different people."""
    return changed_desk(here, round_id, body)


@router.post("/{round_id}/recipe/mend")
def mend_recipe(here: Here, round_id: RoundId) -> Desk:
    """Goes on without what of the kept set-up cannot be used."""
    return changed_desk(here, round_id, MendRecipe())


@router.post("/{round_id}/undo")
def take_back(here: Here, round_id: RoundId, change: ChangeId = None, upto: ChangeId = None) -> Desk:
    """Takes the last change back. One that another window made is named and asked about first.

    With `change` only that one, whoever made it, and only if it is the last; with `upto` every one down to that one.
    """
    here.editor.undo(round_id, only=change, upto=upto, deed=here.deed)
    finish_looking(here, round_id)
    here.changed()
    return newest_desk(here, round_id)


@router.post("/{round_id}/redo")
def do_again(here: Here, round_id: RoundId, change: ChangeId = None, upto: ChangeId = None) -> Desk:
    """Does again what was last taken back, asking as undo does; with `upto` every one up to that one."""
    here.editor.redo(round_id, only=change, upto=upto, deed=here.deed)
    finish_looking(here, round_id)
    here.changed()
    return newest_desk(here, round_id)


@router.get("/{round_id}/changes")
def changes(
    here: Here,
    round_id: RoundId,
    before: Annotated[int | None, Query(ge=1)] = None,
    limit: Annotated[int, Query(ge=1, le=200)] = 50,
) -> Changes:
    """What was changed in the round, the newest first; `before` is the id of the last one that is shown already."""
    with here.database.reading() as session:
        found = round_of(session, round_id)
        entries = entries_of(session, found, before, limit + 1)
        names = columns_of(found)
    return Changes(
        title=recipe_of(found).title,
        changes=as_deeds([change_out(entry, names) for entry in entries[:limit]]),
        more=len(entries) > limit,
    )


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
