"""The drawer: wordings that are kept, renamed, removed and brought back, and taken out for a round."""

from fastapi import APIRouter, Response

from gentle_ledger.app.commands.wordings import WriteWording
from gentle_ledger.core.wording.drawer import SHIPPED, column_for, fields_needed, with_columns
from gentle_ledger.store.drawer import (
    bring_wording_back,
    keep_wording,
    kept_wording,
    kept_wordings,
    remove_wording,
    rename_wording,
)
from gentle_ledger.store.errors import NotThere
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.drawer.schemas import DrawerWording, KeepWordingIn, KeptOut, NeededField, RenameIn, TakeIn
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk

router = APIRouter(prefix="/api", tags=["drawer"])


@router.get("/rounds/{round_id}/drawer")
def drawer(here: Here, round_id: RoundId) -> list[DrawerWording]:
    """What is in the drawer, the clerk's own first, with the columns of this round that its fields may mean."""
    _, opened = here.opened(round_id)
    columns = opened.composer.columns

    def seen(key: str, number: int | None, name: str, text: str) -> DrawerWording:
        needs = [
            NeededField(
                name=field,
                there=columns.position(field) is not None,
                column=column_for(field, columns.names, columns.roles),
            )
            for field in fields_needed(text)
        ]
        return DrawerWording(key=key, number=number, name=name, text=text, needs=needs)

    with here.database.reading() as session:
        own = [seen(str(each.id), each.id, each.name, each.text) for each in kept_wordings(session)]
    return own + [seen(each.key, None, each.name, each.text) for each in SHIPPED]


@router.post("/rounds/{round_id}/drawer/take")
def take_wording(here: Here, round_id: RoundId, body: TakeIn) -> Desk:
    """Writes a wording from the drawer into the round, its fields as the columns that were chosen."""
    text = next((each.text for each in SHIPPED if each.key == body.key), None)
    if text is None:
        if not body.key.isdecimal():
            raise NotThere("This wording is not in the drawer any more.")
        with here.database.reading() as session:
            text = kept_wording(session, int(body.key)).text
    return changed_desk(here, round_id, WriteWording(wording=with_columns(text, body.columns), of=body.of))


@router.post("/drawer", status_code=201)
def keep_in_drawer(here: Here, body: KeepWordingIn) -> KeptOut:
    """Keeps a wording for other rounds."""
    with here.database.writing() as session:
        found = keep_wording(session, " ".join(body.name.split()), body.text, here.clock.now())
        return KeptOut(number=found.id, name=found.name)


@router.patch("/drawer/{number}")
def rename_in_drawer(here: Here, number: RoundId, body: RenameIn) -> KeptOut:
    """Gives a kept wording another name."""
    with here.database.writing() as session:
        found = rename_wording(session, number, " ".join(body.name.split()))
        return KeptOut(number=found.id, name=found.name)


@router.delete("/drawer/{number}", status_code=204)
def remove_from_drawer(here: Here, number: RoundId) -> Response:
    """Takes a kept wording out of the drawer; it can be brought back."""
    with here.database.writing() as session:
        remove_wording(session, number, here.clock.now())
    return Response(status_code=204)


@router.post("/drawer/{number}/restore", status_code=204)
def bring_back_to_drawer(here: Here, number: RoundId) -> Response:
    """Puts a removed wording back."""
    with here.database.writing() as session:
        bring_wording_back(session, number)
    return Response(status_code=204)
