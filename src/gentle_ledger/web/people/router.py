"""Who asked for no more texts: the list, filled by hand."""

from fastapi import APIRouter, Response

from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.phones import tidy_number
from gentle_ledger.store.models import NoMoreTexts
from gentle_ledger.store.no_more_texts import note, standing, take_off
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.people.schemas import AskedIn, AskedNoted, AskedOut

router = APIRouter(prefix="/api/no-more-texts", tags=["people"])


def _out(entry: NoMoreTexts) -> AskedOut:
    return AskedOut(id=entry.id, number=entry.number, on=entry.asked_on, how=entry.how, noted_at=entry.noted_at)


@router.get("")
def people(here: Here) -> list[AskedOut]:
    """Everybody who asked for no more texts, the last noted first."""
    with here.database.reading() as session:
        return [_out(entry) for entry in standing(session)]


@router.post("", status_code=201)
def ask(here: Here, body: AskedIn) -> AskedNoted:
    """Notes that somebody asked. What is still to go to that number, in whichever round, is left out at once."""
    found = tidy_number(body.number, here.settings.region)
    if not found.e164:
        why = found.problem.sentence if found.problem else "it cannot be read"
        raise NotUsable(f"This number cannot be noted: {why}.", "Write it with its country code.")
    if body.on > here.now().date():
        raise NotUsable(f"{body.on:%Y-%m-%d} is still to come.", "Give the day on which it was asked.")
    with here.database.writing() as session:
        entry, left_out = note(session, found.e164, body.on, " ".join(body.how.split()), here.clock.now())
        noted = AskedNoted(entry=_out(entry), left_out=left_out)
    here.changed()
    return noted


@router.delete("/{entry}", status_code=204)
def mistake(here: Here, entry: RoundId) -> Response:
    """Takes an entry off that stood there by mistake."""
    with here.database.writing() as session:
        take_off(session, entry, here.clock.now())
    here.changed()
    return Response(status_code=204)
